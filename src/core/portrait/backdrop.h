#pragma once

#include "base/result.h"
#include "image/picture_file.h"
#include "portrait/environment.h"

namespace bonemoss::portrait {

/// What is seen where nothing stands.
class BackdropView
{
public:
    static Result<BackdropView> from(const Stage &stage, float aspect);
    /// x, y: -1 to 1 over the picture, up and to the right. direction: unit.
    Vec3f at(float x, float y, Vec3f direction, const Environment &surroundings) const;

private:
    Vec3f hills(Vec3f direction) const;
    Backdrop m_backdrop;
    bool m_showsSurroundings = false;
    float m_aspect = 1;
    image::LightPicture m_picture;
};

} // namespace bonemoss::portrait
