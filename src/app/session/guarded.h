#pragma once

#include <QApplication>

#include <cstdio>
#include <functional>

namespace bonemoss::app {

/// The program's event loop: an error that nobody foresaw ends what was asked for, not the program.
class Guarded : public QApplication
{
    Q_OBJECT
public:
    using QApplication::QApplication;
    std::function<void(const QString &)> tell; ///< given the words for who works here

    bool notify(QObject *to, QEvent *e) override
    {
        try {
            return QApplication::notify(to, e);
        } catch (const std::exception &error) {
            std::fprintf(stderr, "bonemoss: %s\n", error.what());
            if (tell)
                tell(
                    tr("Something went wrong inside (%1); what was asked for was broken off. Save under another name to be safe.")
                        .arg(QString::fromUtf8(error.what())));
            return false;
        }
    }
};

} // namespace bonemoss::app
