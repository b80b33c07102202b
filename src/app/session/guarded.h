#pragma once

#include <QApplication>

#include <cstdio>
#include <functional>

namespace bonemoss::app {

/// The program's event loop: an error that nobody foresaw ends what was asked for, not the program, and every sample of pen
/// and mouse counts: none is merged with the next while a frame is drawn.
class Guarded : public QApplication
{
    Q_OBJECT
public:
    Guarded(int &argc, char **argv) : QApplication(argc, argv)
    {
        setAttribute(Qt::AA_CompressHighFrequencyEvents, false); // afterwards: starting up sets it
        setAttribute(Qt::AA_CompressTabletEvents, false);
    }
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
