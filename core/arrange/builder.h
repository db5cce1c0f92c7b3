// The steps of an arrangement, each in a file of its own. See arrangement.cpp for the order.
#pragma once
#include <map>

#include "arrange/catalogue.h"
#include "arrange/meeting.h"

namespace rasoir::arrange {

/// A curve in which two faces meet, with the places at which it is cut.
struct Section {
    int faceA = -1, faceB = -1;
    Handle(Geom_Curve) curve;
    double first = 0.0, last = 0.0;  ///< of this piece of it
    int from = -1, to = -1;          ///< nodes at its ends
    double deviation = 0.0;
    std::vector<Pave> paves;  ///< found later: where other sections cross it
};

class Builder {
public:
    Builder(Arrangement& arrangement, double tolerance)
        : m_all(arrangement), m_catalogue(arrangement, tolerance), m_tolerance(tolerance) {}
    Result<void> run(Progress& progress);

private:
    // points.cpp: where vertices and edges lie on, or cross, edges and faces of other inputs.
    void verticesOnEdges();
    void edgesAcrossEdges();
    Result<void> edgesThroughFaces(Progress& progress);
    bool addPave(EdgeRecord& edge, const gp_Pnt& point, double at, double tolerance, int* node = nullptr);
    // sections.cpp: where faces meet.
    Result<void> findSections(Progress& progress);
    Result<void> sectionsOf(int faceA, int faceB);
    [[nodiscard]] gp_Vec normalNear(const FaceRecord& face,
                                    const gp_Pnt& point) const;  ///< unit, or null where singular
    void sharpen(Branch& branch, const FaceRecord& a, const FaceRecord& b) const;
    void findLost(int faceA, int faceB, const std::set<int>& nodes, std::size_t firstSection);
    void closeBranches(Meeting& meeting, FaceRecord& a, FaceRecord& b, const std::set<int>& nodes);
    void crossEdges(const Branch& branch, FaceRecord& a, FaceRecord& b, std::vector<Pave>& paves);
    [[nodiscard]] double offBoth(const Handle(Geom_Curve) & curve, double from, double to, const FaceRecord& a,
                                 const FaceRecord& b) const;
    void crossSections();
    // arcs.cpp: edges and sections cut at their nodes, and what coincides made one.
    void cutEdges();
    int addArc(Arc arc);
    Result<void> layOnFaces();
    // pieces.cpp: faces divided by the arcs on them.
    Result<void> divideFaces(Progress& progress);
    void addWholeFaces();
    void mergePieces();
    // cells.cpp: what the pieces enclose.
    Result<void> findCells(Progress& progress);

    Arrangement& m_all;
    Catalogue m_catalogue;
    double m_tolerance;
    std::vector<Section> m_sections;
    std::vector<std::vector<int>> m_facesAtEdge;  ///< by edge record: face records of other inputs nearby
    std::map<std::pair<int, int>, std::vector<int>> m_arcsBetween;  ///< by nodes, lesser first
    std::map<std::pair<int, int>, std::vector<int>> m_arcsOfEdge;   ///< by input and edge number
};

}  // namespace rasoir::arrange
