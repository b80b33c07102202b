#include "app/hand/colour_button.h"

#include <QColorDialog>
#include <QPushButton>

namespace bonemoss::app {

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
        QColorDialog dialog(button->property("colour").value<QColor>(), button);
        dialog.setObjectName(QStringLiteral("colourDialog"));
        dialog.setWindowTitle(title);
        dialog.setOption(QColorDialog::DontUseNativeDialog);
        if (dialog.exec() == QDialog::Accepted)
            picked(dialog.currentColor());
    });
    return button;
}

} // namespace bonemoss::app
