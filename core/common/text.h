// Numbers and lengths as people write and read them.
#pragma once
#include <string>
#include <vector>

#include "common/problem.h"

namespace rasoir {

enum class Unit { Millimetre, Centimetre, Metre, Micrometre, Inch, Foot };

/// Length of one `unit` in mm.
double millimetresPer(Unit unit);
/// "mm", "cm", "m", "um", "in", "ft".
std::string unitName(Unit unit);
/// Understands the short names above and the spelled-out ones, in any case.
std::optional<Unit> unitFromName(const std::string& name);

/// Reads a length: "8", "8mm", "0.3 in", "1/4in", "2 el" (elements of `targetSize` mm), "3*2.5", "1 in - 2 mm". A bare
/// number is in `bare`. Returns mm. Refuses text, non-finite and negative numbers with a sentence that shows what was
/// typed.
Result<double> parseLength(const std::string& text, Unit bare = Unit::Millimetre, double targetSize = 0.0);

/// A number with at most `digits` significant decimals after the point, thin spaces between thousands, a true minus.
std::string readable(double value, int decimals);
/// As `readable`, with as many decimals as the size of the value deserves (about four significant figures).
std::string readable(double value);
/// As `readable` with a fixed number of decimals, a plus sign before what is not negative.
std::string readableChange(double value, int decimals);
/// Text whose UTF-8 was once taken for Latin-1 and encoded again ("TrÃ¤ger") set right, twice if need be; bytes that
/// are no UTF-8 are read as Latin-1; control characters become spaces. Text that is in order comes back as it is.
std::string repairedEncoding(const std::string& text);
/// "1 hole", "27 holes".
std::string counted(std::size_t number, const std::string& singular, const std::string& plural = {});

}  // namespace rasoir
