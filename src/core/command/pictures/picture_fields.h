#pragma once

#include "command/field_list.h"

#include <array>
#include <filesystem>

namespace bonemoss::command {

struct PictureChanges {
    std::optional<std::string> view;
    std::optional<std::array<float, 2>> middle;
    std::optional<float> height, turn, opacity;
    std::optional<bool> isOver, isHidden, isLocked;
    static Fields<PictureChanges> fields();
};

struct AddPicture {
    static constexpr const char *kName = "picture.add", *kTitle = "Add picture",
                                *kText = "Takes a picture to work from into the creature.";
    std::filesystem::path path;
    std::optional<std::string> name;
    PictureChanges changes;
    static Fields<AddPicture> fields();
};

struct SetPicture {
    static constexpr const char *kName = "picture.set", *kTitle = "Change picture",
                                *kText = "Changes what is given of a picture and leaves the rest.";
    ItemName picture;
    std::optional<std::string> name;
    PictureChanges changes;
    static Fields<SetPicture> fields();
};

struct RemovePicture {
    static constexpr const char *kName = "picture.remove", *kTitle = "Delete picture", *kText = "Deletes a picture.";
    ItemName picture;
    static Fields<RemovePicture> fields();
};

struct LineUpPicture {
    static constexpr const char
        *kName = "picture.lineup",
        *kTitle = "Line up picture",
        *kText = "Scales and moves a picture so that its crown and ground are at the final height and the floor; from nose or "
                 "tail it is centred on the middle plane. From crown or belly the two points are nose and tail.";
    ItemName picture;
    std::array<float, 2> crown, ground;
    std::optional<float> length;
    static Fields<LineUpPicture> fields();
};

struct AddStamp {
    static constexpr const char *kName = "stamp.add", *kTitle = "Add stamp",
                                *kText = "Takes a picture of 8, 16 or 32 bits as a stamp of the creature's own.";
    std::filesystem::path path;
    std::optional<std::string> name;
    float middle = 0.5f, depth = 1;
    bool isInverted = false, isTiled = false;
    static Fields<AddStamp> fields();
};

struct HarvestStamp {
    static constexpr const char *kName = "stamp.harvest", *kTitle = "Harvest stamp",
                                *kText = "Takes the relief of a skin over its own base as a stamp.";
    std::optional<ItemName> piece;
    std::optional<Vec3f> at;
    std::optional<std::string> group;
    std::optional<Vec3f> normal, up;
    float size = 10;
    std::optional<float> height;
    std::optional<std::string> name;
    bool isTiled = false;
    static Fields<HarvestStamp> fields();
};

struct SetStamp {
    static constexpr const char
        *kName = "stamp.set",
        *kTitle = "Change stamp",
        *kText = "Changes a stamp of the creature's own. What was pressed or has grown with it stays as it is.";
    std::string name;
    std::optional<float> middle, depth;
    bool isInverted = false, isTiled = false;
    static Fields<SetStamp> fields();
};

struct RemoveStamp {
    static constexpr const char *kName = "stamp.remove", *kTitle = "Delete stamp",
                                *kText = "Deletes a stamp of the creature's own.";
    std::string name;
    static Fields<RemoveStamp> fields();
};

} // namespace bonemoss::command
