// A picture to a file.
#include "app/hand/portrait_settings.h"

#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "document/ops/portraits.h"
#include "export/portrait_series.h"
#include "export/shown_scene.h"
#include "portrait/passes.h"
#include "portrait/path_tracer.h"
#include "portrait/rendering.h"

#include <QFile>
#include <QFileDialog>

namespace bonemoss::app {

void PortraitSettings::makePicture(QSize size, int samples, bool isClear, bool hasPasses)
{
    const QString path =
        QFileDialog::getSaveFileName(window(), tr("Make picture"), {}, tr("PNG picture (*.png);;EXR picture (*.exr)"));
    if (path.isEmpty())
        return;
    std::filesystem::path out(QFile::encodeName(path).toStdString());
    if (out.extension() != ".exr" && out.extension() != ".png")
        out += ".png";
    const portrait::Stage stage = document::litStage(m_session.creature());
    const portrait::Shot shot = held().shotOf(held().shot().camera);
    const auto creature = m_session.standing();
    const std::vector<portrait::LightMix> mix = held().mix();
    makeFile(tr("Making the picture"), out, [&](const Progress &progress) -> Status {
        const auto tracer = portrait::PathTracer::make(exporting::pictureScene(*creature), stage, shot);
        if (!tracer)
            return tracer.error();
        portrait::Rendering job{.width = size.width(), .height = size.height()};
        job.how.samples = samples, job.film = stage.film, job.mix = mix;
        if (hasPasses)
            job.passes = {"all"};
        job.kept = out, job.kept += ".unfinished";
        auto picture = rendered(**tracer, job, progress);
        if (!picture)
            return picture.error();
        return portrait::writePicture(out, picture->picture, stage.film, isClear);
    });
}

void PortraitSettings::makeTurntable(QSize size, int samples)
{
    const QString path = QFileDialog::getSaveFileName(window(), tr("Turntable"), QStringLiteral("turntable.webp"),
                                                      tr("WebP film (*.webp);;MP4 film (*.mp4);;Numbered pictures (*.png)"));
    if (path.isEmpty())
        return;
    std::filesystem::path out(QFile::encodeName(path).toStdString());
    if (!out.has_extension())
        out += ".webp";
    exporting::Turntable turn{.width = size.width(), .height = size.height(), .samples = samples};
    turn.shot = held().shotOf(held().shot().camera);
    const auto creature = m_session.share();
    makeFile(tr("Making the turntable"), out, [&](const Progress &p) { return writeTurntable(*creature, turn, out, p); });
}

void PortraitSettings::makePages(const QString &title, const QString &file,
                                 const std::function<Result<exporting::Page>(const document::Creature &, const Progress &)> &make,
                                 float dpi)
{
    const bool isPdf = file.endsWith(QLatin1String(".pdf"));
    const QString kinds = isPdf ? tr("PDF (*.pdf);;PNG picture (*.png)") : tr("PNG picture (*.png);;PDF (*.pdf)");
    const QString path = QFileDialog::getSaveFileName(window(), title, file, kinds);
    if (path.isEmpty())
        return;
    std::filesystem::path out(QFile::encodeName(path).toStdString());
    if (!exporting::isPageFile(out))
        out += isPdf ? ".pdf" : ".png";
    const auto creature = m_session.share();
    makeFile(title, out, [&](const Progress &progress) -> Status {
        const auto page = make(*creature, progress);
        if (!page)
            return page.error();
        return exporting::writePages(out, std::span(&*page, 1), creature->stage.plate.name, dpi);
    });
}

void PortraitSettings::makeFile(const QString &title, const std::filesystem::path &out,
                                const std::function<Status(const Progress &)> &work)
{
    PortraitHand &hand = held(); // this page may be gone afterwards
    emit hand.busyChanged(true);
    const Status made = runOnWorker<Status>(window(), title, work, true);
    emit hand.busyChanged(false);
    if (!made)
        m_session.complain(textOf(made.error().text()));
    else
        m_session.tell(tr("Written: %1").arg(textOf(out.filename().native())));
}

} // namespace bonemoss::app
