// The palette, read from one place: printed paper by day, ink by night. Roles are those of the drawings, not of
// widgets.
#pragma once
#include <QColor>
#include <QFont>
#include <QObject>

namespace rasoir::app {

struct Palette {
    QColor stage, panel, rule, strongRule;
    QColor ink, second, quiet, outline;
    QColor brass, brassText, brassOnTab, button, buttonText;
    QColor cobalt, cobaltTint, plum, plumTint, vermilion, vermilionText;
    QColor body, bodyEdge;
    bool dark = false;
};

enum class Scheme { Follow, Light, Dark };

/// One for the program. Emits changed() when the desktop's or the user's choice flips it.
class Theme : public QObject {
    Q_OBJECT
public:
    static Theme& instance();
    [[nodiscard]] const Palette& palette() const { return m_palette; }
    void choose(Scheme scheme);
    [[nodiscard]] Scheme scheme() const { return m_scheme; }
    /// Inter, in pixels at 100 %; weight 400 or 600. Digits are as wide as each other where the font can.
    static QFont font(double pixels, int weight = 400);

    bool eventFilter(QObject* watched, QEvent* event) override;

signals:
    void changed();

private:
    Theme();
    void apply();
    [[nodiscard]] bool desktopIsDark() const;
    Palette m_palette;
    Scheme m_scheme = Scheme::Follow;
};

inline const Palette& colours() {
    return Theme::instance().palette();
}

}  // namespace rasoir::app
