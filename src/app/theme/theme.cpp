#include "app/theme/theme.h"

#include <QApplication>
#include <QDir>
#include <QFontDatabase>
#include <QLabel>
#include <QLocale>
#include <QPalette>
#include <QStyleFactory>

namespace bonemoss::app {

namespace {

bool g_dark = false; // which theme is in use; changed by applyTheme on the window's thread only

QString styleSheet(const Theme &t)
{
    QString s = QStringLiteral(R"(
* { font-family: "Cabin"; font-size: 10pt; }
QMainWindow, QDialog, QWidget#centre { background: @window; color: @ink; }
QWidget#panel, QScrollArea, QWidget#panelBody { background: @panel; border: none; }
QMenuBar { background: @window; color: @softInk; padding: 2px 6px; }
QMenuBar::item { padding: 4px 10px; background: transparent; }
QMenuBar::item:selected { color: @ink; background: @mossWash; border-radius: 4px; }
QMenu { background: @field; color: @ink; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 4px 26px 4px 18px; border-radius: 4px; }
QMenu::item:selected { background: @mossWash; }
QMenu::item:disabled { color: @softInk; }
QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
QStatusBar, QWidget#statusLine { background: @window; color: @softInk; border-top: 1px solid @line; }
QStatusBar::item { border: none; }
QLabel { color: @ink; background: transparent; }
QLabel[soft="true"] { color: @softInk; }
QLabel[group="true"] { color: @softInk; font-style: italic; }
QTreeWidget { background: @panel; color: @ink; border: none; outline: none; }
QTreeWidget::item { padding: 3px 2px; border: none; }
QTreeWidget::item:hover { background: @hover; }
QTreeWidget::item:selected { background: @mossWash; color: @ink; }
QPushButton { background: @field; color: @ink; border: 1px solid @line; border-radius: 5px; padding: 5px 12px; }
QPushButton:hover { border-color: @moss; }
QPushButton:focus { border-color: @moss; }
QPushButton:disabled { color: @softInk; background: @panel; }
QPushButton[main="true"] { background: @moss; color: @onMoss; border-color: @moss; }
QPushButton[main="true"]:disabled { background: @panel; color: @softInk; border-color: @line; }
QPushButton[word="true"] { background: transparent; border: none; color: @moss; padding: 2px 4px; }
QPushButton[word="true"]:hover { text-decoration: underline; }
QLineEdit, QDoubleSpinBox, QSpinBox, QComboBox { background: @field; color: @ink; border: 1px solid @line; border-radius: 4px; padding: 2px 5px; selection-background-color: @moss; }
QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus, QComboBox:focus { border-color: @moss; }
QDoubleSpinBox, QSpinBox { padding: 2px 2px; }
QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button { width: 0; height: 0; border: none; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(@data/icons/down.svg); width: 9px; height: 9px; }
QComboBox QAbstractItemView { background: @field; color: @ink; selection-background-color: @mossWash; selection-color: @ink; }
QCheckBox { color: @ink; spacing: 6px; }
QSplitter::handle { background: @line; }
QListWidget, QTableWidget, QTextBrowser { background: @field; color: @ink; border: 1px solid @line; border-radius: 4px; }
QListWidget::item:selected, QTableWidget::item:selected { background: @mossWash; color: @ink; }
QHeaderView::section { background: @panel; color: @softInk; border: none; padding: 4px; }
QToolTip { background: @field; color: @ink; border: 1px solid @line; padding: 4px; }
QScrollBar:vertical { background: transparent; width: 6px; }
QScrollBar::handle:vertical { background: @line; border-radius: 3px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QPushButton[planWord="true"] { border: none; background: transparent; color: @softInk; padding: 0; font-family: Vollkorn; font-size: 12pt; font-weight: 600; }
QPushButton[planWord="true"]:checked { color: @ink; }
QPushButton[planWord="true"]:hover, QPushButton[planWord="true"]:focus { color: @moss; }
QDialogButtonBox, QMessageBox { dialogbuttonbox-buttons-have-icons: 0; }
QProgressBar { background: @field; border: 1px solid @line; border-radius: 4px; text-align: center; color: @ink; }
QProgressBar::chunk { background: @moss; border-radius: 3px; }
)");
    const std::pair<const char *, QColor> words[] = {
        {"@window", t.window},     {"@panel", t.panel},
        {"@field", t.field},       {"@line", t.line},
        {"@ink", t.ink},           {"@softInk", t.softInk},
        {"@mossWash", t.mossWash}, {"@onMoss", t.isDark ? QColor("#1C1F16") : QColor("#FBF8F1")},
        {"@moss", t.moss},         {"@hover", t.isDark ? t.field : t.window}};
    for (const auto &[word, colour] : words)
        s.replace(QLatin1String(word), colour.name());
    s.replace(QLatin1String("@data"), dataFolder());
    return s;
}

} // namespace

const Theme &boneTheme()
{
    static const Theme t{"#E9E2D3", "#F3EEE3", "#FBF8F1", "#CFC5B0", "#2B2722", "#6B6254", "#5C7A3D",
                         "#DCE5CB", "#C79A2B", "#A8452E", "#3E6470", "#C2BFB1", "#918F82", false};
    return t;
}

const Theme &peatTheme()
{
    static const Theme t{"#23211D", "#2C2A25", "#36332C", "#4A463C", "#E8E0CF", "#A79E8C", "#8FB05E",
                         "#3C4430", "#D9B24A", "#C9644B", "#7FA7B3", "#4B4942", "#2E2C28", true};
    return t;
}

const Theme &theme()
{
    return g_dark ? peatTheme() : boneTheme();
}

void applyTheme(QApplication &app, bool dark)
{
    g_dark = dark;
    const Theme &t = theme();
    app.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QPalette p;
    p.setColor(QPalette::Window, t.window);
    p.setColor(QPalette::WindowText, t.ink);
    p.setColor(QPalette::Base, t.field);
    p.setColor(QPalette::AlternateBase, t.panel);
    p.setColor(QPalette::Text, t.ink);
    p.setColor(QPalette::Button, t.panel);
    p.setColor(QPalette::ButtonText, t.ink);
    p.setColor(QPalette::Highlight, t.moss);
    p.setColor(QPalette::HighlightedText, t.field);
    p.setColor(QPalette::ToolTipBase, t.field);
    p.setColor(QPalette::ToolTipText, t.ink);
    p.setColor(QPalette::PlaceholderText, t.softInk);
    app.setPalette(p);
    app.setFont(QFont(QStringLiteral("Cabin"), 10));
    app.setStyleSheet(styleSheet(t));
}

QString dataFolder()
{
    const QString installed = QDir(QCoreApplication::applicationDirPath()).absoluteFilePath(QStringLiteral("../share/bonemoss"));
    return QDir(installed).exists() ? installed : QStringLiteral(BONEMOSS_DATA_DIR);
}

bool loadFonts()
{
    bool all = true;
    const QDir fonts(dataFolder() + QStringLiteral("/fonts"));
    const QStringList files = fonts.entryList({QStringLiteral("*.otf"), QStringLiteral("*.ttf")});
    for (const QString &file : files)
        all = QFontDatabase::addApplicationFont(fonts.absoluteFilePath(file)) >= 0 && all;
    return all && !files.isEmpty();
}

QFont headingFont(int points)
{
    QFont f(QStringLiteral("Vollkorn"));
    f.setPointSize(points);
    f.setWeight(QFont::DemiBold);
    return f;
}

QLabel *heading(const QString &text, int points)
{
    auto *label = new QLabel(text);
    label->setWordWrap(true);
    label->setFont(headingFont(points));
    label->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: %1pt; font-weight: 600;").arg(points));
    return label;
}

QString grouped(qulonglong n)
{
    return QLocale(QLocale::English).toString(n).replace(QLatin1Char(','), QChar(0x2009));
}

QString textOf(std::string_view utf8)
{
    return QString::fromUtf8(utf8.data(), qsizetype(utf8.size()));
}

} // namespace bonemoss::app
