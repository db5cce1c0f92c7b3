// The page of the Divide bench that cuts: cutters gathered in a list, and the pieces that they would make.
#pragma once
#include <Bnd_Box.hxx>
#include <gp_Pln.hxx>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include "bench/pick_page.h"
#include "model/reference.h"

namespace rasoir::app {

/// A plane that can be shifted and turned, or a body that cuts with its skin.
struct Cutter {
    gp_Pln plane;                 ///< model coordinates, where it was first
    std::optional<gp_Ax1> pivot;  ///< the line in it about which it is turned; one is chosen where there is none
    double shift = 0.0;           ///< [mm] along its normal
    double degrees = 0.0;         ///< about the pivot
    int axis = -1;                ///< square to it (0 x, 1 y, 2 z); -1: to none
    std::string body;             ///< the place that cuts with its skin, instead of a plane
    std::optional<FaceRef> face;  ///< a face that is not flat, carried on past its ends, instead of a plane
    QString name;
    [[nodiscard]] gp_Pln now() const;
    [[nodiscard]] bool isPlane() const { return body.empty() && !face; }
    /// What its number says: the coordinate on its axis, else the distance from where it was put.
    [[nodiscard]] double number() const;
};

class CutPage : public PickPage {
    Q_OBJECT
public:
    CutPage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    [[nodiscard]] std::vector<StageHandle> handles() const override;
    void handleMoved(int handle, double by) override;
    void triedOut(const Outcome* outcome) override;
    void refresh() override;

    /// A plane square to an axis (0 x, 1 y, 2 z) through the middle of what is selected, or of everything.
    void addAcross(int axis);
    /// Along a picked flat face; through the axis of a round one, or a straight edge, to be turned about it; in the
    /// plane of a circle; through three vertices; or by whole bodies. Says why not where that cannot be. `carriedOn`: a
    /// face that is not flat cuts itself, carried on past its ends; freeform ones always do.
    void addFromPicks(bool carriedOn = false);
    void add(Cutter cutter);
    void forgetCutters();
    [[nodiscard]] const std::vector<Cutter>& cutters() const { return m_cutters; }
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QTreeWidget* pieces() const { return m_pieces; }
    [[nodiscard]] QLineEdit* position() const { return m_position; }
    [[nodiscard]] QLineEdit* angle() const { return m_angle; }
    [[nodiscard]] QComboBox* keptSide() const { return m_keep; }
    [[nodiscard]] QPushButton* snapButton() const { return m_snap; }

signals:
    void told(const QString& html);  ///< why picks give no cutter; empty: all is well

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;  ///< Delete takes a cutter, or a piece, out

private:
    [[nodiscard]] Bnd_Box boxOfWanted() const;
    [[nodiscard]] std::vector<std::size_t> wanted() const;  ///< places that would be cut
    [[nodiscard]] Cutter* current();
    void refreshNumbers();
    /// How far the current plane is from an edge that lies along it, within a quarter of the target size.
    [[nodiscard]] std::optional<double> edgeNearby() const;
    void tellMet();

    std::vector<Cutter> m_cutters;
    std::vector<std::string> m_dropped;                     // names of pieces
    std::map<std::string, std::vector<StageLine>> m_drawn;  // by piece
    QString m_under;                                        // the piece under the pointer; empty: none
    QTreeWidget *m_list, *m_pieces;
    QLineEdit *m_position, *m_angle, *m_group;
    QComboBox* m_keep;
    QPushButton* m_snap;
    QLabel *m_positionLabel, *m_met;
};

}  // namespace rasoir::app
