#include "theme.h"

#include <QtWidgets>

namespace rasoir::app {
namespace {

Palette lightPalette() {
    Palette p;
    p.stage = "#F3EFE6";
    p.panel = "#FAF8F3";
    p.rule = "#DED8CA";
    p.strongRule = "#B9B0A0";
    p.ink = "#2B2D33";
    p.second = "#55565B";
    p.quiet = "#68676A";
    p.outline = "#8C8578";
    p.brass = "#A8761E";
    p.brassText = "#855A10";
    p.brassOnTab = "#FFFFFF";
    p.button = "#926515";
    p.buttonText = "#FFFFFF";
    p.cobalt = "#2454C7";
    p.cobaltTint = "#E3E7F1";
    p.plum = "#7A3B69";
    p.plumTint = "#F1E6EE";
    p.vermilion = "#C8402A";
    p.vermilionText = "#B23420";
    p.body = "#EDE8DE";
    p.bodyEdge = "#2B2D33";
    return p;
}

Palette darkPalette() {
    Palette p;
    p.stage = "#1D1F23";
    p.panel = "#26282C";
    p.rule = "#3A3C42";
    p.strongRule = "#55575D";
    p.ink = "#ECE7DB";
    p.second = "#C0BCB2";
    p.quiet = "#A09D96";
    p.outline = "#85827A";
    p.brass = "#D09A3C";
    p.brassText = "#DDAA50";
    p.brassOnTab = "#1D1F23";
    p.button = "#D09A3C";
    p.buttonText = "#1D1F23";
    p.cobalt = "#8FAEFF";
    p.cobaltTint = "#2F3648";
    p.plum = "#D694C4";
    p.plumTint = "#3B2D38";
    p.vermilion = "#F0745C";
    p.vermilionText = "#F58A74";
    p.body = "#A5A19A";
    p.bodyEdge = "#0E0F12";
    p.dark = true;
    return p;
}

QString styleSheet(const Palette& p) {
    QString sheet = R"(
QWidget { color: @ink; background: transparent; font-family: Inter, sans-serif; font-size: 13px; }
QMainWindow, QDialog, QMenuBar, #panel { background: @panel; }
QMenuBar { padding: 2px 4px; }
QMenuBar::item { padding: 4px 10px; background: transparent; color: @second; }
QMenuBar::item:selected { background: @cobaltTint; color: @ink; }
QMenu { background: @panel; border: 1px solid @strongRule; padding: 4px 0; }
QMenu::item { padding: 5px 28px 5px 16px; }
QMenu::item:selected { background: @cobaltTint; }
QMenu::item:disabled { color: @outline; }
QMenu::separator { height: 1px; background: @rule; margin: 4px 0; }
QToolTip { background: @panel; color: @ink; border: 1px solid @strongRule; }
QLineEdit, QComboBox, QSpinBox, QDoubleSpinBox { border: 0; border-bottom: 1px solid @strongRule;
    background: transparent; padding: 1px 2px; selection-background-color: @cobalt; selection-color: @panel; }
QLineEdit:focus, QComboBox:focus { border: 2px solid @cobalt; border-radius: 3px; }
QLineEdit#targetSize { border-bottom: 2px solid @brass; font-weight: 600; }
QComboBox::drop-down { border: 0; width: 16px; }
QComboBox::down-arrow { image: url(:/down.svg); width: 10px; height: 10px; }
QComboBox QAbstractItemView { background: @panel; selection-background-color: @cobaltTint;
    selection-color: @ink; border: 1px solid @strongRule; }
QListView { background: @panel; color: @ink; border: 1px solid @strongRule; outline: 0; }
QListView::item { padding: 4px 8px; }
QListView::item:selected { background: @cobaltTint; color: @ink; }
QTreeView { background: @panel; color: @ink; border: 0; outline: 0;
  selection-background-color: @cobaltTint; selection-color: @ink; }
QTreeView::item { height: 26px; border-bottom: 1px solid @rule; padding-right: 6px; }
QTreeView::item:selected { background: @cobaltTint; color: @ink; }
QTreeView:focus { border: 2px solid @cobalt; }
QHeaderView::section { background: @panel; color: @second; border: 0; border-bottom: 1px solid @strongRule;
    padding: 3px 4px; font-size: 11px; }
QPushButton { border: 1px solid @outline; border-radius: 3px; padding: 5px 12px; background: @panel; }
QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }
QPushButton:hover { border-color: @ink; }
QPushButton:focus { border: 2px solid @cobalt; }
QPushButton:disabled { color: @outline; border-color: @rule; }
QPushButton#primary { background: @button; color: @buttonText; border: 0; font-size: 14px; font-weight: 600; }
QPushButton#primary:focus { border: 2px solid @cobalt; }
QPushButton#primary:disabled { background: @rule; color: @quiet; }
QCheckBox::indicator { width: 12px; height: 12px; border: 1px solid @outline; border-radius: 2px; background: @panel; }
QCheckBox::indicator:checked { background: @button; border-color: @button; }
QCheckBox::indicator:focus { border: 2px solid @cobalt; }
QSlider::groove:horizontal { height: 2px; background: @strongRule; }
QSlider::handle:horizontal { width: 12px; height: 12px; margin: -5px 0; border-radius: 6px; background: @button; }
QSlider::handle:horizontal:focus { border: 2px solid @cobalt; }
QProgressBar { border: 1px solid @brass; border-radius: 3px; background: @panel; text-align: center; color: @ink; }
QProgressBar::chunk { background: @wash; }
QScrollBar:vertical { width: 8px; background: transparent; }
QScrollBar:horizontal { height: 8px; background: transparent; }
QScrollBar::handle { background: @strongRule; border-radius: 3px; min-height: 24px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QSplitter::handle { background: @rule; }
)";
    const QColor wash = p.dark ? QColor("#5A4726") : QColor("#E5D3AE");
    // Longest names first: @second must not be eaten by a shorter one.
    const QList<QPair<QString, QColor>> roles = {{"@vermilionText", p.vermilionText},
                                                 {"@cobaltTint", p.cobaltTint},
                                                 {"@strongRule", p.strongRule},
                                                 {"@buttonText", p.buttonText},
                                                 {"@outline", p.outline},
                                                 {"@second", p.second},
                                                 {"@cobalt", p.cobalt},
                                                 {"@button", p.button},
                                                 {"@brass", p.brass},
                                                 {"@panel", p.panel},
                                                 {"@quiet", p.quiet},
                                                 {"@stage", p.stage},
                                                 {"@rule", p.rule},
                                                 {"@wash", wash},
                                                 {"@ink", p.ink}};
    for (const auto& [name, colour] : roles) sheet.replace(name, colour.name());
    return sheet;
}

}  // namespace

Theme& Theme::instance() {
    static Theme* theme = new Theme;  // outlives every widget
    return *theme;
}

Theme::Theme() {
    const QString stored = QSettings().value("look/scheme").toString();
    m_scheme = stored == "dark" ? Scheme::Dark : stored == "light" ? Scheme::Light : Scheme::Follow;
    apply();
    // The desktop announces a change of its palette; asking again is all there is to do.
    qApp->installEventFilter(this);
}

bool Theme::eventFilter(QObject* watched, QEvent* event) {
    if (watched == qApp && event->type() == QEvent::ApplicationPaletteChange && m_scheme == Scheme::Follow &&
        desktopIsDark() != m_palette.dark)
        apply();
    return QObject::eventFilter(watched, event);
}

bool Theme::desktopIsDark() const {
    return QGuiApplication::palette().color(QPalette::Window).lightness() < 128;
}

void Theme::choose(Scheme scheme) {
    m_scheme = scheme;
    QSettings().setValue("look/scheme", scheme == Scheme::Dark ? "dark" : scheme == Scheme::Light ? "light" : "follow");
    apply();
}

void Theme::apply() {
    const bool dark = m_scheme == Scheme::Dark || (m_scheme == Scheme::Follow && desktopIsDark());
    m_palette = dark ? darkPalette() : lightPalette();
    qApp->setFont(font(12.5));
    QPalette links;  // nothing but these: the rest stays the desktop's, which is asked whether it is dark
    links.setColor(QPalette::Link, m_palette.cobalt);
    links.setColor(QPalette::LinkVisited, m_palette.cobalt);
    qApp->setPalette(links);
    qApp->setStyleSheet(styleSheet(m_palette));
    emit changed();
}

QFont Theme::font(double pixels, int weight) {
    QFont font("Inter");
    font.setStyleHint(QFont::SansSerif);
    font.setPixelSize(static_cast<int>(std::lround(pixels)));
    font.setWeight(weight >= 600 ? QFont::DemiBold : QFont::Normal);
    return font;
}

}  // namespace rasoir::app
