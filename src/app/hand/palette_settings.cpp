#include "app/hand/palette_settings.h"

#include "app/hand/colour_disc.h"
#include "app/hand/colour_hand.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "base/files.h"
#include "colour/palette.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"

#include <QComboBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

PaletteSettings::PaletteSettings(Session &session, HandModel &hand, QSet<QString> &) : m_session(session), m_hand(hand)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    rebuild();
}

void PaletteSettings::refresh()
{
    if (m_session.creature().palette != m_built || m_chosen != m_builtChosen)
        QMetaObject::invokeMethod(this, &PaletteSettings::rebuild, Qt::QueuedConnection); // what was pressed may go
}

void PaletteSettings::later(json command)
{
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, window = window(), command] { session->runLong(command, window); },
        Qt::QueuedConnection);
}

void PaletteSettings::rebuild()
{
    m_built = m_session.creature().palette;
    if (std::none_of(m_built.begin(), m_built.end(), [&](const auto &c) { return c.id == m_chosen; }))
        m_chosen = m_built.empty() ? 0 : m_built.back().id;
    m_builtChosen = m_chosen;
    delete m_body;
    m_body = new QWidget;
    auto *column = new QVBoxLayout(m_body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(heading(tr("Palette"), 12));
    auto *text = new QLabel(tr("What is painted with a colour of the palette follows when that colour is changed."));
    text->setWordWrap(true);
    text->setProperty("soft", true);
    column->addWidget(text);
    addEntries(column);
    if (m_chosen)
        addChosen(column);
    addFiles(column);
    addChecks(column);
    layout()->addWidget(m_body);
    m_body->show();
}

void PaletteSettings::addEntries(QVBoxLayout *column)
{
    auto *grid = new QGridLayout;
    grid->setSpacing(3);
    int k = 0;
    for (const skin::PaletteColour &c : m_built) {
        auto *b = new QPushButton;
        b->setObjectName(QStringLiteral("paletteEntry_%1").arg(c.id));
        b->setAccessibleName(QString::fromStdString(c.name));
        b->setToolTip(tr("%1 %2: to paint with, and to change below")
                          .arg(QString::fromStdString(c.name), QString::fromStdString(colour::hexOf(c.colour))));
        b->setFixedSize(34, 26);
        b->setStyleSheet(QStringLiteral("background: %1; border: %2px solid %3;")
                             .arg(qtColour(c.colour).name())
                             .arg(c.id == m_chosen ? 3 : 1)
                             .arg((c.id == m_chosen ? theme().moss : theme().line).name()));
        connect(b, &QPushButton::clicked, this, [this, c] {
            m_chosen = c.id;
            m_hand.setColour(c.colour, c.id);
            refresh();
        });
        grid->addWidget(b, k / 6, k % 6);
        ++k;
    }
    grid->setColumnStretch(6, 1);
    column->addLayout(grid);
    auto *add = new QPushButton(tr("Add the colour in hand"));
    add->setObjectName(QStringLiteral("paletteAdd"));
    connect(add, &QPushButton::clicked, this, [this] {
        const Vec3f c = m_hand.settings(sculpt::Tool::Paint).colour;
        m_chosen = 0; // the new one
        later(toCommand(command::AddPaletteColour{.name = colour::hexOf(c), .colour = c}));
    });
    column->addWidget(add);
}

void PaletteSettings::addChosen(QVBoxLayout *column)
{
    const auto at = std::find_if(m_built.begin(), m_built.end(), [&](const auto &c) { return c.id == m_chosen; });
    const skin::PaletteColour entry = *at;
    auto *name = new QLineEdit(QString::fromStdString(entry.name));
    name->setObjectName(QStringLiteral("paletteName"));
    name->setAccessibleName(tr("Name of the colour"));
    connect(name, &QLineEdit::editingFinished, this, [this, name, entry] {
        if (const std::string now = name->text().trimmed().toStdString(); !now.empty() && now != entry.name)
            later(toCommand(command::SetPaletteColour{.entry = entry.id, .name = now}));
    });
    column->addWidget(name);
    auto *chooser = new ColourChooser;
    chooser->show(entry.colour, 0);
    connect(chooser, &ColourChooser::released, this, [this, entry](Vec3f c, std::uint32_t) {
        m_hand.setColour(c, entry.id);
        later(toCommand(command::SetPaletteColour{.entry = entry.id, .colour = c}));
    });
    column->addWidget(chooser);
    auto *row = new QHBoxLayout;
    auto *kind = new QComboBox;
    kind->setObjectName(QStringLiteral("paletteHarmony"));
    kind->setAccessibleName(tr("Colours that go with it"));
    for (const std::string_view h : colour::kHarmonyNames)
        kind->addItem(tableWords("Harmony", h));
    auto *harmony = new QPushButton(tr("Add what goes with it"));
    harmony->setObjectName(QStringLiteral("paletteHarmonyAdd"));
    connect(harmony, &QPushButton::clicked, this, [this, kind, entry] {
        later(toCommand(command::HarmonizePalette{.entry = entry.id, .harmony = colour::Harmony(kind->currentIndex())}));
    });
    row->addWidget(kind);
    row->addWidget(harmony);
    column->addLayout(row);
    auto *remove = new QPushButton(tr("Delete this colour"));
    remove->setObjectName(QStringLiteral("paletteRemove"));
    remove->setToolTip(tr("What was painted with it keeps its colour"));
    connect(remove, &QPushButton::clicked, this,
            [this, entry] { later(toCommand(command::RemovePaletteColour{.entry = entry.id})); });
    column->addWidget(remove);
}

void PaletteSettings::addFiles(QVBoxLayout *column)
{
    auto *row = new QHBoxLayout;
    auto *read = new QPushButton(tr("From a file or picture…"));
    read->setObjectName(QStringLiteral("paletteRead"));
    connect(read, &QPushButton::clicked, this, &PaletteSettings::readFile, Qt::QueuedConnection);
    auto *write = new QPushButton(tr("Save as…"));
    write->setObjectName(QStringLiteral("paletteWrite"));
    write->setToolTip(tr("As text, or as a picture of swatches"));
    write->setEnabled(!m_built.empty());
    connect(write, &QPushButton::clicked, this, &PaletteSettings::saveFile, Qt::QueuedConnection);
    row->addWidget(read);
    row->addWidget(write);
    column->addLayout(row);
}

/// Colours that can hardly be told apart, by whom.
void PaletteSettings::addChecks(QVBoxLayout *column)
{
    std::vector<Vec3f> colours;
    for (const skin::PaletteColour &c : m_built)
        colours.push_back(c.colour);
    QStringList words;
    for (const colour::Close &close : colour::closeOnes(colours)) {
        const QString a = QString::fromStdString(m_built[close.a].name), b = QString::fromStdString(m_built[close.b].name);
        words << (close.eyes == colour::Eyesight::Usual
                      ? tr("%1 and %2 are nearly alike").arg(a, b)
                      : tr("%1 and %2 look alike to eyes with %3")
                            .arg(a, b, tableWords("Eyesight", colour::kEyesightNames[std::size_t(close.eyes)])));
        if (words.size() == 6)
            break;
    }
    if (words.isEmpty())
        return;
    auto *label = new QLabel(words.join(QStringLiteral("\n")));
    label->setObjectName(QStringLiteral("paletteChecks"));
    label->setWordWrap(true);
    label->setProperty("soft", true);
    column->addWidget(label);
}

void PaletteSettings::readFile()
{
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Palette or picture"), {},
                                     tr("Palettes and pictures (*.txt *.png *.jpg *.jpeg *.tif *.tiff *.exr);;All files (*)"));
    if (!path.isEmpty())
        later(toCommand(command::ReadPalette{.path = path.toStdString()}));
}

void PaletteSettings::saveFile()
{
    const QString path = QFileDialog::getSaveFileName(this, tr("Save the palette"), QStringLiteral("palette.txt"),
                                                      tr("Text (*.txt);;Picture of swatches (*.png)"));
    if (path.isEmpty())
        return;
    const std::filesystem::path to = path.toStdString();
    const Status done = path.endsWith(QStringLiteral(".png"), Qt::CaseInsensitive)
                            ? image::writePng(to, colour::swatchesOf(m_session.creature().palette))
                            : bonemoss::writeFile(to, colour::toText(m_session.creature().palette));
    if (!done)
        m_session.complain(QString::fromStdString(done.error().text()));
}

} // namespace bonemoss::app
