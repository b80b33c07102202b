#include "app/view/picture_shelf.h"

#include "app/session/latest.h"
#include "image/picture_file.h"

#include <QCoreApplication>
#include <QThreadPool>

namespace bonemoss::app {

PictureShelf::PictureShelf(QObject *parent) : QObject(parent), m_alive(std::make_shared<bool>(true)) {}

PictureShelf::~PictureShelf()
{
    *m_alive = false;
}

const QImage *PictureShelf::image(const std::shared_ptr<const document::PictureFile> &file)
{
    const auto known = m_entries.find(file.get());
    if (known != m_entries.end())
        return known->second.image.isNull() ? nullptr : &known->second.image;
    m_entries[file.get()] = {file, {}, {}};
    QThreadPool::globalInstance()->start([this, alive = m_alive, file] {
        QImage blank(8, 8, QImage::Format_RGBA8888);
        blank.fill(Qt::gray);
        const QImage read = workedOut<QImage>(blank, [&] {
            const auto p = image::decodePicture(file->bytes);
            return p ? QImage(p->rgba.data(), p->width, p->height, p->width * 4, QImage::Format_RGBA8888).copy() : blank;
        });
        const QImage small = read.scaled(kThumb, kThumb, Qt::KeepAspectRatio, Qt::SmoothTransformation);
        QMetaObject::invokeMethod(QCoreApplication::instance(), [this, alive, file, read, small] {
            if (!*alive)
                return;
            if (const auto it = m_entries.find(file.get()); it != m_entries.end())
                it->second.image = read, it->second.thumb = small;
            emit arrived();
        });
    });
    return nullptr;
}

const QImage *PictureShelf::thumb(const std::shared_ptr<const document::PictureFile> &file)
{
    return image(file) ? &m_entries[file.get()].thumb : nullptr;
}

void PictureShelf::keepOnly(const document::Creature &creature)
{
    std::erase_if(m_entries, [&](const auto &e) {
        return std::none_of(creature.references.begin(), creature.references.end(),
                            [&](const auto &r) { return r.file.get() == e.first; });
    });
}

} // namespace bonemoss::app
