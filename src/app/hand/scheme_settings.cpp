#include "app/hand/scheme_settings.h"

#include "app/theme/theme.h"
#include "app/session/worker.h"
#include "base/files.h"
#include "colour/palette.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "document/ops/colours.h"
#include "export/paint_plan.h"
#include "export/shown_scene.h"
#include "portrait/studio.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr QSize kPicture(232, 132);

} // namespace

/// Pictures outlive the page: they are drawn again where the scheme has changed.
QMap<std::uint32_t, std::pair<document::Scheme, QImage>> &SchemeSettings::pictures()
{
    static QMap<std::uint32_t, std::pair<document::Scheme, QImage>> all;
    return all;
}

SchemeSettings::SchemeSettings(Session &session, HandModel &, QSet<QString> &)
    : m_session(session), m_next([this](Drawn drawn) {
          for (const document::Scheme &s : m_session.creature().schemes)
              if (s.id == drawn.scheme)
                  pictures()[s.id] = {s, drawn.image};
          rebuild();
      })
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    rebuild();
}

void SchemeSettings::refresh()
{
    if (m_session.creature().schemes != m_built || m_session.creature().scheme != m_builtUsed)
        QMetaObject::invokeMethod(this, &SchemeSettings::rebuild, Qt::QueuedConnection); // what was pressed may go
}

void SchemeSettings::later(json command)
{
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, window = window(), command] { session->runLong(command, window); },
        Qt::QueuedConnection);
}

void SchemeSettings::rebuild()
{
    m_built = m_session.creature().schemes, m_builtUsed = m_session.creature().scheme;
    delete m_body;
    m_body = new QWidget;
    auto *column = new QVBoxLayout(m_body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(heading(tr("Schemes"), 12));
    auto *text = new QLabel(
        tr("A scheme keeps the palette, and which colour layers show how much. One click colours the creature by it; nothing is "
           "painted twice."));
    text->setWordWrap(true);
    text->setProperty("soft", true);
    column->addWidget(text);
    auto *add = new QPushButton(tr("Keep the present colours as a scheme"));
    add->setObjectName(QStringLiteral("schemeAdd"));
    connect(add, &QPushButton::clicked, this, &SchemeSettings::addScheme, Qt::QueuedConnection);
    column->addWidget(add);
    for (const document::Scheme &s : m_built) {
        const bool isUsed = s.id == m_builtUsed;
        auto *use = new QToolButton;
        use->setObjectName(QStringLiteral("scheme_%1").arg(s.id));
        use->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
        use->setText(QString::fromStdString(s.name) + (isUsed ? tr(" · in use") : QString()));
        use->setToolTip(tr("Colours the creature by this scheme"));
        use->setIconSize(kPicture);
        use->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        use->setStyleSheet(
            QStringLiteral("border: %1px solid %2;").arg(isUsed ? 2 : 1).arg((isUsed ? theme().moss : theme().line).name()));
        QImage image = pictures().value(s.id).second;
        if (image.isNull()) {
            image = QImage(kPicture, QImage::Format_RGB32);
            image.fill(theme().field);
        }
        use->setIcon(QPixmap::fromImage(image));
        connect(use, &QToolButton::clicked, this, [this, id = s.id] { later(toCommand(command::UseScheme{.scheme = id})); });
        column->addWidget(use);
        auto *row = new QHBoxLayout;
        const auto button = [&](const QString &id, const QString &words, const QString &tip, const auto &clicked) {
            auto *b = new QPushButton(words);
            b->setObjectName(id + QString::number(s.id));
            b->setToolTip(tip);
            connect(b, &QPushButton::clicked, this, clicked);
            row->addWidget(b);
        };
        button(QStringLiteral("schemeUpdate_"), tr("Update"), tr("Takes over how the creature is coloured now"),
               [this, id = s.id] { later(toCommand(command::SetScheme{.scheme = id, .isUpdating = true})); });
        button(QStringLiteral("schemeRename_"), tr("Rename…"), tr("Another name for this scheme"), [this, id = s.id] {
            QMetaObject::invokeMethod( // a dialog outlives the buttons
                this, [this, id] { renameScheme(id); }, Qt::QueuedConnection);
        });
        button(QStringLiteral("schemeRemove_"), tr("Delete"), tr("The creature stays coloured as it is"),
               [this, id = s.id] { later(toCommand(command::RemoveScheme{.scheme = id})); });
        column->addLayout(row);
    }
    auto *plan = new QPushButton(tr("Paint plan…"));
    plan->setObjectName(QStringLiteral("paintPlan"));
    plan->setToolTip(tr("A page for whoever paints the print: colours, where they go, and how to mix them"));
    connect(plan, &QPushButton::clicked, this, &SchemeSettings::planPaint, Qt::QueuedConnection);
    column->addWidget(plan);
    layout()->addWidget(m_body);
    m_body->show();
    askPicture();
}

void SchemeSettings::addScheme()
{
    bool isGiven = false;
    const QString name = QInputDialog::getText(this, tr("Colour scheme"), tr("Name"), QLineEdit::Normal, tr("Scheme"), &isGiven);
    if (isGiven)
        later(toCommand(command::AddScheme{.name = name.trimmed().toStdString()}));
}

void SchemeSettings::renameScheme(std::uint32_t id)
{
    const auto &all = m_session.creature().schemes;
    const auto at = std::find_if(all.begin(), all.end(), [&](const document::Scheme &s) { return s.id == id; });
    if (at == all.end())
        return;
    bool isGiven = false;
    const QString name = QInputDialog::getText(this, tr("Colour scheme"), tr("Name"), QLineEdit::Normal,
                                               QString::fromStdString(at->name), &isGiven);
    if (isGiven && !name.trimmed().isEmpty())
        later(toCommand(command::SetScheme{.scheme = id, .name = name.trimmed().toStdString()}));
}

/// With usual paints, or those of a palette file beside the page that is called paints.txt.
void SchemeSettings::planPaint()
{
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Paint plan"), QStringLiteral("paint plan.pdf"), tr("Page (*.pdf)"));
    if (path.isEmpty())
        return;
    const std::filesystem::path to = path.toStdString();
    std::vector<skin::PaletteColour> paints = colour::usualPaints();
    if (const auto bytes = readFile(to.parent_path() / "paints.txt"))
        if (auto own = colour::fromText({reinterpret_cast<const char *>(bytes->data()), bytes->size()}))
            paints = std::move(*own);
    const auto creature = m_session.share();
    const Status done = runOnWorker<Status>(window(), tr("Paint plan"), [&](const Progress &progress) -> Status {
        const auto plan = exporting::paintPlanOf(*creature, shownPath(to.stem()), 8, paints, progress);
        if (!plan)
            return plan.error();
        return exporting::writePaintPlan(to, *plan);
    });
    if (!done && done.error().code != ErrorCode::Cancelled)
        m_session.complain(QString::fromStdString(done.error().text()));
}

/// The first picture that is missing or of another state of its scheme; the others follow when it has come.
void SchemeSettings::askPicture()
{
    for (const document::Scheme &s : m_built) {
        if (pictures().contains(s.id) && pictures()[s.id].first == s)
            continue;
        m_next.ask([creature = m_session.share(), s](const std::stop_token &stop) {
            document::Creature coloured = *creature;
            Operation quiet;
            document::useScheme(coloured, s, quiet);
            portrait::Camera camera;
            camera.rotation = portrait::viewRotation("left").value_or(Quat{});
            camera = portrait::framing(camera, coloured.bounds(), float(kPicture.width()) / float(kPicture.height()));
            const auto picture = portrait::studioPicture(exporting::pictureScene(coloured), camera, kPicture.width(),
                                                         kPicture.height(), 4, {stop, {}});
            if (!picture)
                return Drawn{s.id, {}};
            return Drawn{s.id, QImage(picture->rgba.data(), picture->width, picture->height, QImage::Format_RGBA8888).copy()};
        });
        return;
    }
}

} // namespace bonemoss::app
