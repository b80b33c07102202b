#include "app/hand/proof_settings.h"

#include "app/hand/layer_view.h"
#include "app/hand/tile.h"
#include "app/hand/value_slider.h"
#include "app/dialogs/command_dialog.h"
#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "command/command.h"
#include "export/shown_scene.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QFile>
#include <QFileDialog>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QSignalBlocker>
#include <QSlider>
#include <QVBoxLayout>

#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

TileWords wordsOfCheck(const BenchRow &, std::size_t)
{
    return {QStringLiteral("proofTile_check"), proofWords("Check"),
            proofWords("What a printer will make of it: walls, gaps, pockets, islands, stance"), proofWords("Proof")};
}

QIcon dotOf(proof::Severity severity)
{
    QPixmap dot(10, 10);
    dot.fill(Qt::transparent);
    QPainter p(&dot);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen), p.setBrush(colourOf(severity));
    p.drawEllipse(1, 1, 8, 8);
    return dot;
}

QString severityWords(proof::Severity severity)
{
    switch (severity) {
    case proof::Severity::Spoils: return proofWords("spoils the print");
    case proof::Severity::Risky: return proofWords("risky");
    case proof::Severity::Note: return proofWords("note");
    }
    return {};
}

/// A value with as many digits as tell something.
QString valueOf(const proof::Finding &f)
{
    const QString unit = textOf(f.kind->unit)
                             .replace(QLatin1String("mm2"), QStringLiteral("mm²"))
                             .replace(QLatin1String("mm3"), QStringLiteral("mm³"));
    const bool isCount = !unit.startsWith(QLatin1String("mm"));
    return QStringLiteral("%L1 %2").arg(f.value, 0, 'f', isCount || f.value >= 100 ? 0 : f.value >= 10 ? 1 : 2).arg(unit);
}

} // namespace

QString proofWords(std::string_view words)
{
    return QCoreApplication::translate("Proof", words.data());
}

QColor colourOf(proof::Severity severity)
{
    constexpr std::array<QRgb, 3> kColours{0xffc2452d, 0xffd69a3a, 0xff7f9097};
    return QColor::fromRgb(kColours[std::size_t(severity)]);
}

ProofSettings::ProofSettings(Session &session, HandModel &hand, QSet<QString> &) : m_session(session), m_hand(hand)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    addPrinter(column);
    m_check = new QPushButton(tr("Check"));
    m_check->setObjectName(QStringLiteral("proofCheck"));
    m_check->setProperty("main", true);
    m_check->setToolTip(tr("Looks at the creature layer by layer, as it stands"));
    connect(m_check, &QPushButton::clicked, this, &ProofSettings::check);
    m_summary = new QLabel, m_about = new QLabel;
    m_summary->setObjectName(QStringLiteral("proofSummary")), m_about->setObjectName(QStringLiteral("proofAbout"));
    for (QLabel *l : {m_summary, m_about})
        l->setWordWrap(true);
    m_list = new QListWidget;
    m_list->setObjectName(QStringLiteral("proofFindings"));
    m_list->setAccessibleName(tr("Findings"));
    m_list->setMinimumHeight(220);
    m_list->setWordWrap(true);
    connect(m_list, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!m_isFilling)
            held().choose(row);
    });
    column->addWidget(m_check), column->addWidget(m_summary);
    column->addWidget(m_list, 1);
    m_mend = new QPushButton;
    m_mend->setObjectName(QStringLiteral("proofMend"));
    connect(m_mend, &QPushButton::clicked, this, &ProofSettings::mend);
    column->addWidget(m_about), column->addWidget(m_mend);
    addLayers(column);
    column->addStretch();
    connect(&held(), &ProofHand::reportChanged, this, &ProofSettings::fill);
    connect(&held(), &ProofHand::findingChosen, this, &ProofSettings::tellChosen);
    fill();
}

void ProofSettings::addPrinter(QVBoxLayout *column)
{
    auto *printers = new QComboBox;
    printers->setObjectName(QStringLiteral("proofPrinter"));
    printers->setAccessibleName(tr("Printer"));
    for (const proof::PrinterProfile &p : proof::printerProfiles())
        printers->addItem(proofWords(p.title), textOf(p.id));
    if (printers->findData(textOf(held().profile().id)) < 0)
        printers->addItem(textOf(held().profile().title), textOf(held().profile().id));
    printers->setCurrentIndex(printers->findData(textOf(held().profile().id)));
    printers->addItem(tr("Own printer…"));
    const auto tip = [this, printers] {
        const proof::PrinterProfile &p = held().profile();
        printers->setToolTip(
            tr("Layers of %1 mm, walls from %2 mm, gaps from %3 mm; builds %4 by %5 by %6 mm (usual values; own ones "
               "as a file)")
                .arg(double(p.layer))
                .arg(double(p.wall))
                .arg(double(p.gap))
                .arg(double(p.build.x))
                .arg(double(p.build.z))
                .arg(double(p.build.y)));
    };
    tip();
    connect(printers, &QComboBox::activated, this, [this, printers, tip](int k) {
        std::string wanted = printers->itemData(k).toString().toStdString();
        if (wanted.empty())
            wanted = QFile::encodeName(
                         QFileDialog::getOpenFileName(window(), tr("Printer profile"), {}, tr("Printer profile (*.json)")))
                         .toStdString();
        if (!wanted.empty() && held().setPrinter(wanted) && printers->findData(textOf(held().profile().id)) < 0)
            printers->insertItem(printers->count() - 1, textOf(held().profile().title), textOf(held().profile().id));
        printers->setCurrentIndex(printers->findData(textOf(held().profile().id)));
        tip();
    });
    column->addWidget(printers);
    io::Scene shown = exporting::shownScene(*m_session.standing()); // its pose is worked out already
    shown.leaveOut(m_session.creature().stage.ground.standsOn());
    const float own = shown.box().isEmpty() ? m_session.creature().heightMm : std::max(shown.box().size().y, 0.1f);
    auto *height = new ValueSlider(tr("Height of the print"), {10, 500, true, tr("mm"), 1});
    height->setObjectName(QStringLiteral("proofHeight"));
    height->setToolTip(tr("The creature keeps its size: all that is told is that of the print"));
    height->setValue(double(held().height() > 0 ? held().height() : own));
    connect(height, &ValueSlider::released, this,
            [this, own](double v) { held().setHeight(std::abs(float(v) - own) < 0.05f ? 0 : float(v)); });
    column->addWidget(height);
}

/// The print layer by layer.
void ProofSettings::addLayers(QVBoxLayout *column)
{
    m_slice = new QPushButton(tr("Slice"));
    m_slice->setObjectName(QStringLiteral("proofSlice"));
    m_slice->setToolTip(tr("Shows the print layer by layer: what begins in the air, and how hard each layer is pulled off"));
    m_layer = new QSlider(Qt::Horizontal);
    m_layer->setObjectName(QStringLiteral("proofLayer"));
    m_layer->setAccessibleName(tr("Layer"));
    m_layers = new LayerView;
    m_layerWords = new QLabel;
    m_layerWords->setObjectName(QStringLiteral("proofLayerWords"));
    m_layerWords->setWordWrap(true);
    column->addWidget(m_slice), column->addWidget(m_layer), column->addWidget(m_layers, 1), column->addWidget(m_layerWords);
    connect(m_slice, &QPushButton::clicked, this, &ProofSettings::slice);
    connect(m_layer, &QSlider::valueChanged, this, [this](int k) { held().setLayer(k); });
    connect(m_layers, &LayerView::layerPicked, this, [this](int k) { held().setLayer(k); });
    connect(&held(), &ProofHand::slicedChanged, this, &ProofSettings::showLayer);
    connect(&held(), &ProofHand::layerChanged, this, &ProofSettings::showLayer);
    showLayer();
}

void ProofSettings::showLayer()
{
    const auto &sliced = held().sliced();
    for (QWidget *w : std::initializer_list<QWidget *>{m_layer, m_layers, m_layerWords})
        w->setVisible(bool(sliced));
    m_slice->setText(sliced ? tr("Show findings") : tr("Slice"));
    m_layers->setSliced(sliced);
    if (!sliced)
        return;
    const int k = held().layer();
    const QSignalBlocker quiet(m_layer);
    m_layer->setRange(0, sliced->layers.count - 1);
    m_layer->setPageStep(std::max(1, sliced->layers.count / 20));
    m_layer->setValue(k);
    m_layers->setLayer(k);
    QString words = tr("Layer %L1 of %L2 · %3 mm high · %L4 mm² · about %5 N to peel")
                        .arg(k + 1)
                        .arg(sliced->layers.count)
                        .arg(double(float(k + 1) * sliced->layers.height), 0, 'f', 2)
                        .arg(sliced->layers.area[std::size_t(k)], 0, 'f', 0)
                        .arg(sliced->peelForce(k), 0, 'f', 1);
    if (const std::uint32_t n = sliced->islandsIn[std::size_t(k)]; n > 0)
        words += QLatin1Char('\n') + (n == 1 ? tr("One island begins here.") : tr("%1 islands begin here.").arg(n));
    words += QLatin1Char('\n')
             + tr("All: %1 cm³ · %2 g · %3 h · %4 of material · %L5 islands")
                   .arg(sliced->volumeMm3 / 1000, 0, 'f', 1)
                   .arg(sliced->weightG, 0, 'f', 0)
                   .arg(sliced->hours, 0, 'f', 1)
                   .arg(sliced->cost, 0, 'f', 2)
                   .arg(sliced->islands.size());
    m_layerWords->setText(words);
}

void ProofSettings::slice()
{
    ProofHand &hand = held(); // this page may be gone afterwards
    if (hand.sliced())
        return hand.setSliced(nullptr);
    const auto creature = m_session.share();
    Session &session = m_session;
    auto made = runOnWorker<Result<proof::Sliced>>(window(), tr("Slicing"), [&](const Progress &progress) {
        return proof::sliced(exporting::printScene(*creature), hand.profile(), hand.height(), 4000, progress);
    });
    if (!made)
        return session.complain(textOf(made.error().text()));
    hand.setSliced(std::make_shared<const proof::Sliced>(std::move(*made)));
    hand.setLayer(hand.sliced()->layers.count / 2);
}

void ProofSettings::refresh()
{
    const auto &report = held().report();
    m_check->setText(report ? tr("Check again") : tr("Check"));
    if (!report)
        return m_summary->setText(tr("Not checked yet."));
    const auto count = [&](proof::Severity s) {
        return int(std::count_if(report->findings.begin(), report->findings.end(),
                                 [&](const proof::Finding &f) { return f.severity == s; }));
    };
    const int spoils = count(proof::Severity::Spoils);
    QString text = report->isSound() ? tr("Nothing spoils the print.")
                   : spoils == 1     ? tr("One finding spoils the print.")
                                     : tr("%1 findings spoil the print.").arg(spoils);
    text += QLatin1Char(' ') + tr("%1 risky, %2 notes.").arg(count(proof::Severity::Risky)).arg(count(proof::Severity::Note));
    text += QLatin1Char('\n')
            + tr("%1 × %2 × %3 mm · %4 cm³ · %5 g · %L6 layers · %7 h")
                  .arg(double(report->size.x), 0, 'f', 0)
                  .arg(double(report->size.z), 0, 'f', 0)
                  .arg(double(report->size.y), 0, 'f', 0)
                  .arg(report->volumeMm3 / 1000, 0, 'f', 1)
                  .arg(report->weightG, 0, 'f', 0)
                  .arg(report->layers)
                  .arg(report->hours, 0, 'f', 1);
    text +=
        QLatin1Char('\n')
        + (report->stands ? tr("Stands, %1 mm from tipping.").arg(double(report->marginMm), 0, 'f', 1) : tr("Does not stand."));
    if (report->fibres > 0)
        text += QLatin1Char(' ') + tr("Hairs are left out: %L1.").arg(report->fibres);
    if (held().isStale())
        text += QLatin1Char('\n') + tr("Changed since this check.");
    m_summary->setText(text);
}

void ProofSettings::fill()
{
    const QScopedValueRollback filling(m_isFilling, true);
    m_list->clear();
    if (const auto &report = held().report())
        for (const proof::Finding &f : report->findings) {
            auto *item = new QListWidgetItem(dotOf(f.severity),
                                             QStringLiteral("%1 · %2").arg(proofWords(f.kind->title), valueOf(f)), m_list);
            item->setToolTip(severityWords(f.severity) + (f.piece.empty() ? QString() : QStringLiteral(" · ") + textOf(f.piece)));
        }
    m_list->setVisible(m_list->count() > 0);
    refresh();
    tellChosen();
}

void ProofSettings::tellChosen()
{
    const auto &report = held().report();
    const int k = held().chosen();
    m_about->setVisible(report && k >= 0);
    m_mend->setVisible(report && k >= 0 && !mendOf(report->findings[std::size_t(k)]).is_null());
    if (!report || k < 0)
        return;
    const QScopedValueRollback filling(m_isFilling, true);
    m_list->setCurrentRow(k);
    const proof::Finding &f = report->findings[std::size_t(k)];
    QString about = tr("%1: %2.").arg(severityWords(f.severity), proofWords(f.kind->hint));
    if (!f.piece.empty())
        about = textOf(f.piece) + QStringLiteral(", ") + about;
    if (const auto *command = f.kind->command.empty() ? nullptr : command::findCommand(f.kind->command))
        m_mend->setText(textOf(command->title) + QStringLiteral("…")), m_mend->setToolTip(textOf(command->description));
    m_about->setText(about + QLatin1Char('\n') + tr("What mends it: %1").arg(proofWords(f.kind->mend)));
}

/// The command that mends a finding, or null where there is none for what shows it.
nlohmann::json ProofSettings::mendOf(const proof::Finding &finding) const
{
    nlohmann::json command;
    if (finding.kind->command.empty() || (finding.kind->isOnPiece && !m_session.creature().piece(finding.item)))
        return command;
    command["do"] = finding.kind->command;
    if (finding.kind->isOnPiece)
        command["piece"] = finding.item;
    if (finding.kind->command == "print.thicken") // at the size of the creature
        command["wall"] = std::max(held().profile().wall, 0.05f) / std::max(held().report()->scale, 1e-3f);
    return command;
}

void ProofSettings::mend()
{
    const auto &report = held().report();
    const int k = held().chosen();
    if (!report || k < 0)
        return;
    const nlohmann::json command = mendOf(report->findings[std::size_t(k)]);
    if (command.is_null())
        return;
    QStringList asked; // what it has to say beside the piece
    for (const command::ParamSpec &p : command::findCommand(command["do"].get<std::string>())->params)
        if (p.kind == command::ParamKind::Number || p.kind == command::ParamKind::Integer || p.kind == command::ParamKind::Switch
            || p.kind == command::ParamKind::Choice)
            asked << textOf(p.name);
    Session &session = m_session;
    QWidget *over = window();
    if (const auto wanted = askCommand(over, command, asked); wanted && session.runLong(*wanted, over))
        if (command["do"] == "print.seal")
            session.choosePiece(session.creature().pieces.back()->id);
}

void ProofSettings::check()
{
    ProofHand &hand = held(); // this page may be gone afterwards
    const auto creature = m_session.share();
    const proof::ProofJob job{.profile = hand.profile(), .heightMm = hand.height()};
    Session &session = m_session;
    auto made = runOnWorker<Result<proof::Report>>(window(), tr("Checking the print"), [&](const Progress &progress) {
        return proof::prove(exporting::printScene(*creature), job, progress);
    });
    if (!made)
        return session.complain(textOf(made.error().text()));
    hand.setReport(std::make_shared<const proof::Report>(std::move(*made)));
}

const HandPart kProofPart{
    .count = [](const BenchRow &) { return std::size_t(1); },
    .words = wordsOfCheck,
    .tile =
        [](const BenchRow &bench, std::size_t k, int key) {
            QPainterPath path;
            path.addRoundedRect(QRectF(34, 5, 32, 30), 2, 2);
            for (const double y : {12.0, 20.0, 28.0})
                path.moveTo(40, y), path.lineTo(43, y + 3), path.lineTo(47, y - 3), path.moveTo(51, y), path.lineTo(61, y);
            return new Tile(wordsOfCheck(bench, k).title, key, path, false);
        },
    .pick = [](HandModel &, const BenchRow &, std::size_t) {},
    .held = [](const HandModel &, const BenchRow &) { return 0; },
    .settings = [](Session &session, HandModel &hand, QSet<QString> &open) -> HandSettings * {
        return new ProofSettings(session, hand, open);
    },
};

} // namespace bonemoss::app
