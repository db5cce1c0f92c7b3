// A translator's document with its assembly, and how it becomes parts and occurrences. Shared by STEP and IGES.
#pragma once
#include <mutex>
#include <TDocStd_Document.hxx>

#include "model/model.h"

namespace rasoir::exchange {

/// The translators keep their state in one place for the whole program: one translation at a time. Taken outside
/// guarded().
std::mutex& translatorLock();

/// A translator's document, closed whatever happens.
class Document {
public:
    Document();
    ~Document();
    Document(const Document&) = delete;
    Document& operator=(const Document&) = delete;
    Handle(TDocStd_Document) & get() { return m_document; }

private:
    Handle(TDocStd_Document) m_document;
};

/// Fills parts, occurrences, names and colours from a document, and notes what had to be repaired or left out: missing
/// and doubled names, wrong encodings, empty products, assemblies that hold themselves.
void receiveAssembly(const Handle(TDocStd_Document) & document, Model& model);

}  // namespace rasoir::exchange
