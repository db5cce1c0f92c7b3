// What an arrangement works on: the faces, edges and vertices of the inputs near which something may be met.
#pragma once
#include <Bnd_Box.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Geom_Surface.hxx>
#include <GeomAdaptor_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <map>
#include <memory>
#include <optional>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>

#include "arrange/arrangement.h"
#include "geometry/edge_probe.h"

namespace rasoir::arrange {

enum class Where { Out, On, In };

/// A place on an edge where something ends or crosses.
struct Pave {
    double at = 0.0;  ///< parameter
    int node = -1;
};

struct EdgeRecord {
    int input = 0, number = 0;
    TopoDS_Edge shape;
    Handle(Geom_Curve) curve;  ///< null: degenerated
    double first = 0.0, last = 0.0, tolerance = 0.0;
    int from = -1, to = -1;  ///< nodes
    Bnd_Box box;
    std::vector<Pave> paves;  ///< within it, ends excluded
    std::vector<int> arcs;    ///< along it, once it is cut
    std::unique_ptr<EdgeProbe> probe;
};

struct FaceRecord {
    int input = 0, number = 0;
    TopoDS_Face shape;  ///< FORWARD: its surface's own side
    Handle(Geom_Surface) surface;
    GeomAdaptor_Surface adaptor;
    double tolerance = 0.0;
    Bnd_Box box;
    double low[2]{}, high[2]{};  ///< its parameters' box
    double period[2]{};          ///< 0: not periodic
    std::vector<int> edges;      ///< records, each once
    std::set<int> lying;         ///< arcs that lie within it and are not of its boundary
    bool divided = false;
    std::unique_ptr<BRepTopAdaptor_FClass2d> classifier;
};

/// Records are made for faces whose boxes touch a face of another input, and for their edges.
class Catalogue {
public:
    Catalogue(Arrangement& arrangement, double tolerance) : m_all(arrangement), m_tolerance(tolerance) {}

    /// Finds the pairs of faces, of different inputs, whose boxes touch, and records them.
    Result<void> fill(Progress& progress);

    std::vector<FaceRecord> faces;
    std::vector<EdgeRecord> edges;
    std::vector<std::pair<int, int>> pairs;  ///< of face records

    [[nodiscard]] double tolerance() const { return m_tolerance; }
    [[nodiscard]] int faceRecord(int input, int number) const;  ///< -1: not recorded
    [[nodiscard]] int edgeRecord(int input, int number) const;
    int recordEdge(int input, int number);
    /// Node of a vertex of an input, made when first asked for.
    int nodeOf(int input, const TopoDS_Shape& vertex);
    /// The node within reach of a point, or a new one there with this tolerance.
    int nodeAt(const gp_Pnt& point, double reach, double tolerance = 0.0);
    /// The node within reach of a point, if there is one.
    [[nodiscard]] std::optional<int> knownNode(const gp_Pnt& point, double tolerance) const;
    [[nodiscard]] double reach(int node, double tolerance) const;
    /// Nodes of different inputs that are closer than their tolerances become one. Called once, before paves are set.
    void mergeNodes();

    /// Where a point lies that is known to be on, or near, a face's surface.
    Where locate(FaceRecord& face, const gp_Pnt& point, double tolerance, gp_Pnt2d* uv = nullptr);
    /// Distance of a point from the face's surface, and its parameters within the face's own period.
    std::optional<double> offSurface(const FaceRecord& face, const gp_Pnt& point, gp_Pnt2d& uv) const;
    EdgeProbe& probe(EdgeRecord& edge);
    [[nodiscard]] tl::unexpected<Problem> refuse(const std::string& what, int faceA, int faceB, const gp_Pnt& at) const;

private:
    int recordFace(int input, int number);
    [[nodiscard]] std::vector<int> nodesNear(const gp_Pnt& point, double reach) const;
    void index(int node);

    Arrangement& m_all;
    double m_tolerance;
    std::map<std::pair<int, int>, int> m_faceAt, m_edgeAt, m_nodeAt;
    double m_cell = 1.0;  ///< [mm] side of the grid that nodes are looked up in
    double m_largest = 0.0;
    std::multimap<std::array<long, 3>, int> m_grid;
};

/// Parameters of the point of an elementary surface nearest to a point; none for other surfaces.
std::optional<gp_Pnt2d> elementaryParameters(const GeomAdaptor_Surface& surface, const gp_Pnt& point);

}  // namespace rasoir::arrange
