#pragma once

#include "base/types.h"

#include <QImage>
#include <QWidget>

class QLineEdit;

namespace bonemoss::app {

class Session;
class ValueSlider;

/// Hue round the disc and chroma outward, at one lightness, in OKLCh. Keyboard: left and right turn the hue, up and down change the
/// chroma.
class ColourDisc : public QWidget
{
    Q_OBJECT
public:
    explicit ColourDisc(QWidget *parent = nullptr);
    void show(Vec3f srgb); ///< sends nothing
    QSize sizeHint() const override { return {150, 150}; }
    bool hasHeightForWidth() const override { return false; }
    QPointF placeOf(float hue, float chroma) const; ///< in the widget

signals:
    void edited(Vec3f srgb);
    void released(Vec3f srgb);

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void keyPressEvent(QKeyEvent *e) override;

private:
    double radius() const;
    void takeAt(QPointF at);
    Vec3f now() const;

    float m_light = 0.5f, m_chroma = 0.05f, m_hue = 100;
    QImage m_image; ///< of m_imageLight
    float m_imageLight = -1;
};

/// The disc with lightness, hex numbers, the last ten colours, and those of the creature's palette.
class ColourChooser : public QWidget
{
    Q_OBJECT
public:
    explicit ColourChooser(Session *session = nullptr, QWidget *parent = nullptr);
    Vec3f colour() const { return m_colour; }
    std::uint32_t entry() const { return m_entry; } ///< of the palette; 0 for none
    void show(Vec3f srgb, std::uint32_t entry);     ///< sends nothing

signals:
    void edited(Vec3f srgb, std::uint32_t entry);   ///< while it moves
    void released(Vec3f srgb, std::uint32_t entry); ///< when it is chosen

private:
    void take(Vec3f srgb, std::uint32_t entry, bool isDone);
    void rebuildSwatches();

    Session *m_session;
    Vec3f m_colour;
    std::uint32_t m_entry = 0;
    ColourDisc *m_disc;
    ValueSlider *m_light;
    QLineEdit *m_hex;
    QWidget *m_swatches = nullptr;
};

} // namespace bonemoss::app
