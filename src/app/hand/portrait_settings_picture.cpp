// A picture to a file.
#include "app/hand/portrait_settings.h"

#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "document/ops/portraits.h"
#include "export/shown_scene.h"
#include "portrait/filter.h"
#include "portrait/passes.h"
#include "portrait/path_tracer.h"

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
    const auto made = runOnWorker<Status>(window(), tr("Making the picture"), [&](const Progress &progress) -> Status {
        const auto tracer = portrait::PathTracer::make(exporting::pictureScene(*creature), stage, shot);
        if (!tracer)
            return tracer.error();
        if (const Status room = (*tracer)->hasRoom(size.width(), size.height()); !room)
            return room;
        portrait::Gathered g = (*tracer)->blank(size.width(), size.height());
        for (int done = 0; done < samples;) { // in steps, so that what is left can be told
            const int next = std::min(samples, done + std::max(1, samples / 50));
            const Progress step{progress.stop, {}};
            if (!(*tracer)->gather(g, {.samples = next}, step))
                return Error{ErrorCode::Cancelled, "picture", "stopped on request; nothing was written"};
            done = next;
            progress.say(float(done) / float(samples), "picture");
        }
        std::vector<Vec3f> light = filtered(g, portrait::FilterQuality::Full, {progress.stop, {}});
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "picture", "stopped on request; nothing was written"};
        light = mixed(g, mix, light).light; // each light as it was mixed
        return portrait::writePicture(out, g, light, stage.film,
                                      hasPasses ? std::vector<std::string>{"all"} : std::vector<std::string>{}, isClear);
    });
    if (!made)
        m_session.complain(textOf(made.error().text()));
    else
        m_session.tell(tr("Picture written: %1").arg(path));
}

} // namespace bonemoss::app
