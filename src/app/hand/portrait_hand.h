#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "portrait/develop.h"
#include "portrait/stage.h"

#include <nlohmann/json.hpp>

namespace bonemoss::app {

/// What the hand panel shows on the Portrait bench.
enum class PortraitPage { Sets, Lights, Camera, Place, Picture, Mix, Plate };

/// What the hand holds on the Portrait bench: the light in hand, the lens before the view, and how lights are mixed.
class PortraitHand : public BenchHand
{
    Q_OBJECT
public:
    explicit PortraitHand(Session &session) : m_session(session) {}

    PortraitPage page() const { return m_page; }
    void setPage(PortraitPage page);
    /// The light whose settings are shown: the chosen one, or the first; null where there is none.
    const portrait::Light *light() const;
    void chooseLight(std::uint32_t id);
    /// The label of the plate that is chosen; 0 for none.
    std::uint32_t mark() const { return m_mark; }
    void chooseMark(std::uint32_t id);
    /// Aperture, focus and shape of the picture; its camera is the view's.
    const portrait::Shot &shot() const { return m_shot; }
    float lens() const { return m_lens; } ///< mm
    void setShot(const portrait::Shot &shot, float lens);
    /// Field of view, radians, of a view of that shape through the lens, so that the frame of the picture lies in it.
    float fieldOfViewIn(float viewAspect) const;
    /// The picture's own camera, of a view's.
    portrait::Shot shotOf(const portrait::Camera &view) const;
    void takeLens(const portrait::Camera &view, float viewAspect); ///< that the view has; says nothing of it
    bool showsThirds() const { return m_showsThirds; }
    bool showsFrame() const { return m_showsFrame; }
    void setGuides(bool thirds, bool frame);
    const std::vector<portrait::LightMix> &mix() const { return m_mix; }
    void setMix(const portrait::LightMix &of);
    void dropMix();
    /// The stage that pictures are made with: what is tried before it is sent included.
    portrait::Stage stage() const;
    /// A command about light whose result is shown before it is sent; null for none.
    void tryCommand(const nlohmann::json &command);
    void leave() override;

signals:
    void tried();       ///< another stage is shown
    void shotChanged(); ///< another lens
    void mixChanged();
    void markChosen();
    void busyChanged(bool isBusy);           ///< a picture is made for a file: the view leaves it the processor
    void cameraWanted(const Quat &rotation); ///< for the view: turned so

private:
    Session &m_session;
    PortraitPage m_page = PortraitPage::Sets;
    std::uint32_t m_light = 0, m_mark = 0;
    portrait::Shot m_shot;
    float m_lens = 85;
    bool m_showsThirds = false, m_showsFrame = false;
    std::vector<portrait::LightMix> m_mix;
    std::shared_ptr<const portrait::Stage> m_tried;
};

/// Degrees by which a camera is turned about the way it looks.
float tiltOf(const portrait::Camera &camera);
/// The command that keeps a camera as it stands, with its lens.
nlohmann::json keepCameraCommand(const std::string &name, const portrait::Shot &shot);

} // namespace bonemoss::app
