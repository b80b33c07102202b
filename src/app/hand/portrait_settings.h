#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"
#include "app/hand/portrait_hand.h"
#include "base/progress.h"
#include "export/canvas.h"

#include <functional>
#include <vector>

class QPushButton;
class QVBoxLayout;

namespace bonemoss::app {

class ValueSlider;

/// Pages of the Portrait bench: ready light, the light in hand, the lens, the place, the picture for a file, mixing,
/// and the plate.
class PortraitSettings : public HandSettings
{
    Q_OBJECT
public:
    PortraitSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;
    bool isOfOneState() const override; ///< other lights or another kind of place need another page

    void addSets();
    void addLights();
    void addCamera();
    void addPlace();
    void addPicture();
    void addMix();
    void addPlate();

private:
    PortraitHand &held() const { return m_hand.of<PortraitHand>(); }
    void run(nlohmann::json command);
    ValueSlider *addSlider(const char *id, const QString &title, double least, double most, const QString &unit, int digits,
                           double per, bool isLogarithmic, const std::function<double()> &value,
                           const std::function<nlohmann::json(double)> &command, const QString &tip = {});
    QPushButton *addButton(const char *id, const QString &text, const QString &tip, const std::function<void()> &act);
    void addFilm();
    void makePicture(QSize size, int samples, bool isClear, bool hasPasses);
    /// Works beside the window with progress; says what became of it.
    void makeFile(const QString &title, const std::filesystem::path &out, const std::function<Status(const Progress &)> &work);
    void makeTurntable(QSize size, int samples);
    void makePages(const QString &title, const QString &file,
                   const std::function<Result<exporting::Page>(const document::Creature &, const Progress &)> &make, float dpi);

    Session &m_session;
    HandModel &m_hand;
    QVBoxLayout *m_column;
    std::vector<std::function<void()>> m_refresh;
    std::vector<std::uint32_t> m_madeFor;
    std::vector<std::uint32_t> state() const;
};

/// Words of its tables in the language of the window.
QString portraitWords(std::string_view words);

extern const HandPart kPortraitPart;

} // namespace bonemoss::app
