#include "app/hand/colour_button.h"

#include "app/hand/colour_disc.h"
#include "app/hand/colour_hand.h"
#include "base/colour.h"

#include <QDialogButtonBox>
#include <QPushButton>
#include <QVBoxLayout>

namespace bonemoss::app {

ColourDialog::ColourDialog(QColor now, const QString &title, QWidget *parent) : QDialog(parent), m_chooser(new ColourChooser)
{
    setObjectName(QStringLiteral("colourDialog"));
    setWindowTitle(title);
    m_chooser->show(fromQt(now), 0);
    auto *buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    auto *column = new QVBoxLayout(this);
    column->addWidget(m_chooser);
    column->addWidget(buttons);
}

QColor ColourDialog::colour() const
{
    return qtColour(m_chooser->colour());
}

void ColourDialog::setColour(QColor colour)
{
    m_chooser->show(fromQt(colour), 0);
}

void showColour(QPushButton *button, QColor colour)
{
    button->setProperty("colour", colour);
    button->setStyleSheet(QStringLiteral("background: %1;").arg(colour.name()));
}

QPushButton *colourButton(const QString &id, const QString &name, QColor now, const QString &title,
                          const std::function<void(QColor)> &picked)
{
    auto *button = new QPushButton;
    button->setObjectName(id);
    button->setAccessibleName(name);
    button->setToolTip(name);
    button->setFixedSize(28, 24);
    showColour(button, now);
    QObject::connect(button, &QPushButton::clicked, button, [button, title, picked] {
        ColourDialog dialog(button->property("colour").value<QColor>(), title, button);
        if (dialog.exec() != QDialog::Accepted)
            return;
        rememberColour(fromQt(dialog.colour()));
        picked(dialog.colour());
    });
    return button;
}

QColor ofLight(Vec3f light)
{
    return QColor(srgbByte(light.x), srgbByte(light.y), srgbByte(light.z));
}

Vec3f lightOf(const QColor &c)
{
    return {fromSrgb(float(c.redF())), fromSrgb(float(c.greenF())), fromSrgb(float(c.blueF()))};
}

} // namespace bonemoss::app
