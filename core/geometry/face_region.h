// Where a face's parameters end: is a point of its surface in the face?
//
// The kernel's classifier walks every outline of a face for each point, and remembers where it was last, so that
// threads cannot share it. Here the outlines are straight pieces sorted into strips: a point looks at those of its own
// strip, and at the true outline only where it lies as near to a piece as that strays from it.
#pragma once
#include <Geom2d_Curve.hxx>
#include <gp_Pnt2d.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <vector>

namespace rasoir {

class FaceRegion {
public:
    /// Cost: linear in the edges and in how much they bend.
    explicit FaceRegion(const TopoDS_Face& face);

    enum class Where { In, On, Out };
    /// In parameters of the face's own period. On: on an outline, within 1e-9 of the parameters' size. Any thread may
    /// ask.
    [[nodiscard]] Where where(const gp_Pnt2d& uv) const;

    double low[2]{}, high[2]{};  ///< the parameters' box

private:
    // Pieces are kept in parameters scaled to the unit square: a hole in a tube is as long as it is wide there.
    struct Piece {
        gp_Pnt2d from, to;
        double slack = 0.0;               // the outline lies no farther from it
        int trace = -1;                   // the bent one that it stands for; -1: it is the outline itself
        double begins = 0.0, ends = 0.0;  // parameters of that at from and to
    };
    /// Where a point lies that is near a piece, to what that stands for.
    enum class Beside { Same, Between, On };  // between the piece and its outline: on the other side of the two

    TopoDS_Face m_face;
    bool m_closed = true;  // else the kernel is always asked
    std::vector<Handle(Geom2d_Curve)> m_traces;
    std::vector<Piece> m_pieces;
    std::vector<std::vector<int>> m_strips;  // across the second parameter: pieces that reach into each

    void takeOutlines();
    [[nodiscard]] gp_Pnt2d scaled(const gp_Pnt2d& uv) const;
    void takePieces(const TopoDS_Edge& edge, std::vector<Piece>& loop);
    void bisect(const Piece& piece, int depth, std::vector<Piece>& into) const;
    void sortIntoStrips();
    [[nodiscard]] std::size_t stripOf(double v) const;
    [[nodiscard]] Beside beside(const Piece& piece, const gp_Pnt2d& uv) const;
    [[nodiscard]] Where asked(const gp_Pnt2d& uv) const;
};

}  // namespace rasoir
