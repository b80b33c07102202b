#pragma once

#include "document/creature.h"

#include <QImage>
#include <QObject>

#include <map>
#include <memory>

namespace bonemoss::app {

/// Reference pictures as pixels, read beside the window and kept as long as a creature has them.
class PictureShelf : public QObject
{
    Q_OBJECT
public:
    explicit PictureShelf(QObject *parent = nullptr);
    ~PictureShelf() override;
    /// Null while it is still being read; arrived() tells when it is there. A picture that cannot be read is grey.
    const QImage *image(const std::shared_ptr<const document::PictureFile> &file);
    /// The same at most kThumb points wide and high, made once.
    const QImage *thumb(const std::shared_ptr<const document::PictureFile> &file);
    static constexpr int kThumb = 36;
    void keepOnly(const document::Creature &creature);

signals:
    void arrived();

private:
    struct Entry {
        std::shared_ptr<const document::PictureFile> file;
        QImage image, thumb;
    };
    std::map<const document::PictureFile *, Entry> m_entries;
    std::shared_ptr<bool> m_alive; ///< looked at on the window's thread only
};

} // namespace bonemoss::app
