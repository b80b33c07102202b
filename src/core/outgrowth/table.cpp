// The table of kinds: adding one is a shape, a layout where none fits, and a row here.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

constexpr std::string_view kSections[] = {"round", "flattened", "three-edged", "keeled", "drawn"};
constexpr std::string_view kForms[] = {"plate", "leaf", "spine", "scute", "hook", "spike", "shell"};
constexpr std::string_view kBodies[] = {"solid", "thin"};
constexpr std::string_view kLines[] = {"none", "one", "two", "staggered"};

constexpr Setting kHornSettings[] = {
    {"length", "Length", "mm", "short", "long", 0.5f, 400},
    {"radius", "Root radius", "mm", "thin", "thick", 0.1f, 100},
    {"tip", "Tip", "", "pointed", "blunt", 0.02f, 1},
    {"expansion", "Whorl expansion", "", "tight coil", "nearly straight", 1.05f, 1000},
    {"distance", "Distance from axis", "", "close coil", "wide coil", 0, 0.95f},
    {"drift", "Translation", "", "flat coil", "screw", -4, 4},
    {"bearing", "Bends towards", "deg", "back", "back again", -180, 180},
    {"lean", "Lean", "deg", "forward", "backward", -90, 90},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"splay", "Splay", "deg", "inward", "outward", -90, 90},
    {"section", "Section", "", "", "", 0, 4, true, kSections},
    {"flatness", "Flatness", "", "round", "flat"},
    {"flatRoot", "Flat at the root only", "", "all along", "round tip"},
    {"twist", "Twist", "deg", "none", "screwed", -1080, 1080},
    {"rings", "Rings", "", "none", "many", 0, 40, true},
    {"ringDepth", "Ring depth", "", "faint", "deep"},
    {"crowd", "Rings crowd at the root", "", "even", "crowded"},
    {"grooves", "Grooves", "", "none", "many", 0, 14, true},
    {"grooveDepth", "Groove depth", "", "faint", "deep"},
    {"bulges", "Bulges", "", "even", "swollen"},
    {"wear", "Wear at the tip", "", "new", "worn"},
    {"cracks", "Cracks at the tip", "", "none", "split"},
    {"chip", "Broken off", "", "whole", "a stump", 0, 0.9f},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 50},
};
//                          len  rad  tip   W    D     T     bear lean turn splay sect flat fRoot twist rings rDep crowd groov gDep bulg wear crck chip sink
constexpr float kHorn[] = {45, 6.5f, 0.08f, 12,    0.55f, 0.6f, 0,    0,    0,    0, 1, 0.5f,
                           1,  0,    14,    0.55f, 0.6f,  0,    0.5f, 0.4f, 0.3f, 0, 0, 1};
constexpr float kTusk[] = {32, 4, 0.12f, 40,   0.6f, 0.1f, 180,   0,     0,    0,     0, 0.1f,
                           0,  0, 0,     0.3f, 0.3f, 5,    0.25f, 0.15f, 0.6f, 0.25f, 0, 1.5f};

constexpr Setting kRowSettings[] = {
    {"form", "Form", "", "", "", 0, 6, true, kForms},
    {"height", "Height", "mm", "low", "tall", 0.3f, 200},
    {"width", "Width", "", "narrow", "broad", 0.05f, 3},
    {"thickness", "Thickness", "", "thin", "stout", 0.04f, 1},
    {"curve", "Curve", "", "straight", "curved back"},
    {"count", "Count", "", "by spacing", "many", 0, kMostInRow, true},
    {"spacing", "Spacing", "mm", "by size", "far apart", 0, 200},
    {"overlap", "Overlap", "", "apart", "one over the other", -1, 0.8f},
    {"lines", "Lines", "", "", "", 1, 3, true, kLines},
    {"apart", "Lines apart", "mm", "close", "far", 0, 100},
    {"lean", "Lean", "deg", "forward", "backward", -80, 80},
    {"turn", "Turn", "deg", "along the line", "across it", -180, 180},
    {"splay", "Splay", "deg", "inward", "outward", -80, 80},
    {"sink", "Sink", "", "on the skin", "half sunk", 0, 0.6f},
    {"edge", "Edge", "", "round", "sharp"},
    {"keel", "Ridge", "", "none", "strong"},
    {"rings", "Growth lines", "", "none", "many", 0, 12, true},
    {"jitter", "Jitter", "", "even", "uneven"},
    {"wear", "Wear", "", "new", "worn"},
    {"sacs", "Soft sacs between", "", "none", "swollen"},
    {"variants", "Different shapes", "", "all alike", "no two alike", 1, 8, true},
};
//                         form high wide  thick  curve n  space over  lines apart lean turn splay sink edge  keel  rings jitt wear sacs var
constexpr float kPlates[] = {0, 16, 0.8f, 0.2f, 0.4f, 0, 0, 0.1f, 1, 10, -12, 0, 0, 0.12f, 0.7f, 0.4f, 5, 0.3f, 0.4f, 0, 4};
constexpr float kSpikes[] = {5, 9, 0.4f, 0.4f, 0.5f, 0, 0, -0.6f, 1, 8, -20, 0, 0, 0.1f, 0, 0.2f, 0, 0.25f, 0.2f, 0, 2};
constexpr float kScutes[] = {3, 3.5f, 2.2f, 1, 0, 0, 0, 0.08f, 1, 10, 0, 0, 0, 0.1f, 0.1f, 0.6f, 4, 0.25f, 0.3f, 0, 4};
// Broad plates that lie back over each other, each with a thin rim and the bulge of what it covers.
constexpr float kShells[] = {6, 13, 1.5f, 0.16f, 0.5f, 0, 0, 0.45f, 1, 10, 52, 0, 0, 0.2f, 0.9f, 0.35f, 4, 0.15f, 0.25f, 0.6f, 3};

constexpr Setting kRingSettings[] = {
    {"form", "Form", "", "", "", 0, 5, true, kForms},
    {"height", "Height", "mm", "low", "tall", 0.3f, 200},
    {"width", "Width", "", "narrow", "broad", 0.05f, 3},
    {"thickness", "Thickness", "", "thin", "stout", 0.04f, 1},
    {"count", "Count", "", "one", "many", 1, 60, true},
    {"distance", "Distance from the middle", "mm", "close", "wide", 0, 200},
    {"lean", "Lean", "deg", "inward", "outward", -90, 90},
    {"turn", "Turn", "deg", "edge outward", "across", -180, 180},
    {"curve", "Curve", "", "straight", "curved"},
    {"sink", "Sink", "", "on the skin", "half sunk", 0, 0.6f},
    {"jitter", "Jitter", "", "even", "uneven"},
};
//                        form high wide  thick  n  dist lean turn curve sink jitter
constexpr float kRings[] = {5, 8, 0.4f, 0.4f, 7, 5, 30, 0, 0.3f, 0.12f, 0.3f};

constexpr std::string_view kToothForms[] = {"fang", "incisor", "molar", "needle"};

constexpr Setting kToothSettings[] = {
    {"form", "Form", "", "", "", 0, 3, true, kToothForms},
    {"height", "Height", "mm", "short", "long", 0.2f, 100},
    {"width", "Width", "", "narrow", "broad", 0.05f, 2},
    {"thickness", "Thickness", "", "thin", "stout", 0.05f, 2},
    {"curve", "Curve", "", "straight", "curved in"},
    {"count", "Count", "", "by spacing", "many", 0, kMostInRow, true},
    {"spacing", "Spacing", "mm", "by size", "far apart", 0, 100},
    {"overlap", "Overlap", "", "gaps", "crowded", -2, 0.6f},
    {"lean", "Lean", "deg", "back", "forward", -80, 80},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"splay", "Splay", "deg", "inward", "outward", -80, 80},
    {"sink", "Sink", "", "on the gum", "half sunk", 0, 0.6f},
    {"jitter", "Jitter", "", "even", "uneven"},
    {"wear", "Wear", "", "new", "worn"},
    {"variants", "Different shapes", "", "all alike", "no two alike", 1, 8, true},
};
//                          form high wide  thick curve n spac over   lean turn splay sink  jitt  wear  var
constexpr float kFangs[] = {0, 7, 0.42f, 0.38f, 0.4f, 0, 0, -0.35f, 0, 0, 0, 0.15f, 0.3f, 0.2f, 3};
constexpr float kIncisors[] = {1, 5, 0.75f, 0.5f, 0.2f, 0, 0, 0.02f, 0, 0, 0, 0.15f, 0.2f, 0.3f, 3};
constexpr float kMolars[] = {2, 4, 1.1f, 1.1f, 0, 0, 0, 0.02f, 0, 0, 0, 0.2f, 0.15f, 0.4f, 3};
constexpr float kNeedles[] = {3, 7, 0.35f, 0.35f, 0.6f, 0, 0, -0.2f, 0, 0, 0, 0.12f, 0.5f, 0, 4};

constexpr Setting kClawSettings[] = {
    {"length", "Length", "mm", "short", "long", 0.3f, 100},
    {"width", "Width", "", "narrow", "broad", 0.05f, 2.5f},
    {"height", "Height", "", "flat", "deep", 0.05f, 2},
    {"curve", "Curve", "deg", "straight", "hooked", -30, 170},
    {"blunt", "Tip", "", "sharp", "blunt"},
    {"keel", "Ridge and groove", "", "round", "sharp"},
    {"lean", "Lean", "deg", "down", "up", -90, 90},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"splay", "Splay", "deg", "inward", "outward", -90, 90},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 30},
    {"rings", "Growth lines", "", "none", "strong"},
    {"wear", "Wear", "", "new", "worn"},
    {"jitter", "Jitter", "", "even", "uneven"},
    {"variants", "Different shapes", "", "all alike", "no two alike", 1, 8, true},
};
//                          len  wide  high  curv blunt keel lean turn splay sink rings wear jitt var
constexpr float kClaws[] = {8, 0.36f, 0.46f, 75, 0.05f, 0.5f, 0, 0, 0, 1, 0.4f, 0.3f, 0.15f, 2};
constexpr float kNails[] = {5, 0.95f, 0.30f, 25, 0.75f, 0.2f, 0, 0, 0, 1, 0.5f, 0.3f, 0.1f, 2};
constexpr float kHooves[] = {9, 1.0f, 0.9f, 12, 0.9f, 0.15f, 0, 0, 0, 1.5f, 0.7f, 0.4f, 0.1f, 2};

constexpr std::string_view kPupils[] = {"round", "slit", "bar", "wave", "split"};
constexpr std::string_view kLids[] = {"no lids", "lids"};

constexpr Setting kEyeSettings[] = {
    {"radius", "Radius", "mm", "small", "large", 0.3f, 60},
    {"sink", "Sink", "", "on the skin", "deep", -0.5f, 1.2f},
    {"iris", "Iris", "", "small", "fills the eye", 0.2f, 0.9f},
    {"pupil", "Pupil", "", "", "", 0, 4, true, kPupils},
    {"pupilSize", "Pupil size", "", "narrow", "wide", 0.08f, 0.9f},
    {"pupilTurn", "Pupil turn", "deg", "level", "upright", -90, 90},
    {"upperLid", "Upper lid", "", "open", "closed"},
    {"lowerLid", "Lower lid", "", "open", "closed"},
    {"lids", "Lids", "", "", "", 0, 1, true, kLids},
    {"lidThickness", "Lid thickness", "mm", "thin", "thick", 0.05f, 10},
    {"lidWidth", "Eye opening", "", "narrow", "wide", 0.4f, 1},
    {"tilt", "Tilt of the lids", "deg", "outer corner down", "up", -60, 60},
    {"crease", "Crease of the upper lid", "", "none", "deep"},
    {"bags", "Bag below", "", "none", "heavy"},
    {"gazeUp", "Looks up", "deg", "up", "down", -40, 40},
    {"gazeOut", "Looks aside", "deg", "inward", "outward", -40, 40},
    {"depth", "Depth of the iris", "", "flat", "deep"},
    {"irisRings", "Rings in the iris", "", "none", "many", 0, 8, true},
    {"bulge", "Clear bulge", "", "round", "bulging"},
    {"stack", "Eyes in a stack", "", "one", "many", 1, 6, true},
    {"apart", "Apart", "", "touching", "far", 0.8f, 4},
    {"stackTurn", "Turn of the stack", "deg", "downward", "to the side", -180, 180},
    {"wet", "Wet rim", "", "dry", "brimming"},
};
//                        rad sink  iris   pupil size  turn upper lower lids thick width tilt crease bags up out depth rings bulge stack apart turn
constexpr float kEyes[] = {5,    0.35f, 0.55f, 0, 0.42f, 0, 0.15f, 0.1f, 1,    0.9f, 0.9f, 0,
                           0.5f, 0.2f,  0,     0, 0.5f,  3, 0.4f,  1,    1.3f, 0,    0.5f};

constexpr Setting kFinSettings[] = {
    {"height", "Height", "mm", "low", "tall", 0.3f, 200},
    {"spines", "Spines", "", "few", "many", 2, 40, true},
    {"sag", "Sag between spines", "", "straight rim", "deep", 0, 2},
    {"lean", "Lean", "deg", "forward", "backward", -70, 70},
    {"thickness", "Thickness at the root", "mm", "thin", "thick", 0.1f, 20},
    {"rim", "Thickness at the rim", "", "thin", "as at the root", 0.1f, 1},
    {"ribs", "Ribs", "", "none", "strong", 0, 3},
    {"torn", "Torn rim", "", "whole", "torn"},
    {"folds", "Folds", "", "stretched", "folded"},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 30},
};
//                        high spines sag lean thick rim  ribs torn folds sink
constexpr float kFins[] = {14, 7, 0.5f, 15, 1.2f, 0.4f, 0.8f, 0.15f, 0, 1};

constexpr Setting kMembraneSettings[] = {
    {"sag", "Sag", "", "taut", "hangs", 0, 0.75f},
    {"scallop", "Drawn-in rim", "", "straight", "deep", 0, 0.8f},
    {"thickness", "Thickness at the root", "mm", "thin", "thick", 0.1f, 20},
    {"rim", "Thickness at the rim", "", "thin", "as at the root", 0.1f, 1},
    {"ribs", "Ribs", "", "none", "strong", 0, 3},
    {"torn", "Torn rim", "", "whole", "torn"},
    {"folds", "Folds", "", "stretched", "folded"},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 30},
};
//                             sag   scal   thick rim   ribs  torn  folds sink
constexpr float kMembranes[] = {0.2f, 0.25f, 1.2f, 0.5f, 0.8f, 0.1f, 0, 0.5f};

constexpr Setting kLockSettings[] = {
    {"length", "Length", "mm", "short", "long", 1, 150},
    {"width", "Width", "", "thin", "broad", 0.06f, 0.6f},
    {"thickness", "Thickness", "", "flat", "round", 0.15f, 1},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 85},
    {"density", "Density", "", "few", "many", 0.2f, 3},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"wave", "Wave", "", "straight", "wavy", 0, 0.9f},
    {"curl", "Curl", "", "none", "ringlets"},
    {"clump", "Clumps", "", "single", "locks of locks"},
    {"grooves", "Grooves", "", "smooth", "deep"},
    {"taper", "Taper", "", "blunt", "flame"},
    {"flick", "Tips turn up", "deg", "down", "up", -40, 60},
    {"twist", "Twist", "deg", "none", "twisted", -180, 180},
    {"gravity", "Hangs", "", "stands by itself", "hangs down", 0, 2},
    {"stiffness", "Stiffness", "", "follows the skin", "stiff", 0.05f, 0.95f},
    {"uneven", "Uneven at the middle", "mm", "mirrored", "wide", 0, 40},
    {"push", "Pushed apart", "", "as they fall", "apart"},
};
//                        len wide  thick lift dens var   wave  curl clump groov taper flick twist grav stiff uneven push
constexpr float kLocks[] = {12, 0.26f, 0.5f, 18, 1, 0.6f, 0.3f, 0, 0.7f, 0.7f, 1, 6, 0, 0.25f, 0.5f, 4, 1};

constexpr Setting kAntlerSettings[] = {
    {"length", "Length", "mm", "short", "long", 2, 400},
    {"radius", "Root radius", "mm", "thin", "thick", 0.2f, 60},
    {"tip", "Tip", "", "pointed", "blunt", 0.06f, 1},
    {"curve", "Curve", "deg", "straight", "back and forward again", -20, 80},
    {"spread", "Spread", "deg", "narrow", "wide", -30, 70},
    {"tines", "Tines", "", "none", "many", 0, 14, true},
    {"first", "Lowest tine", "", "at the root", "at the top", 0.05f, 0.8f},
    {"tineLength", "Tine length", "", "short", "long", 0.05f, 0.8f},
    {"angle", "Tine angle", "deg", "along the beam", "across", 15, 100},
    {"palm", "Palm", "", "round beam", "flat as a hand"},
    {"burr", "Burr at the root", "", "none", "strong"},
    {"grooves", "Grooves", "", "smooth", "deep"},
    {"jitter", "Jitter", "", "even", "uneven"},
    {"lean", "Lean", "deg", "forward", "backward", -90, 90},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"splay", "Splay", "deg", "inward", "outward", -90, 90},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 30},
};
//                            len rad tip   curve spread tines first tineL angle palm burr  groov jitt lean turn splay sink
constexpr float kAntlers[] = {60, 3.6f, 0.3f, 34, 22, 5, 0.12f, 0.42f, 62, 0.15f, 0.7f, 0.5f, 0.5f, 0, 0, 0, 1};

constexpr Setting kManeSettings[] = {
    {"length", "Length", "mm", "short", "long", 1, 150},
    {"width", "Width", "", "thin", "broad", 0.06f, 0.6f},
    {"thickness", "Thickness", "", "flat", "round", 0.15f, 1},
    {"rows", "Rows to a side", "", "one", "many", 1, 7, true},
    {"spread", "Spread", "mm", "narrow", "wide", 0, 80},
    {"fall", "Falls to the side", "deg", "along the line", "across", 0, 90},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 85},
    {"density", "Density", "", "few", "many", 0.3f, 3},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"wave", "Wave", "", "straight", "wavy", 0, 0.9f},
    {"curl", "Curl", "", "none", "ringlets"},
    {"clump", "Clumps", "", "single", "locks of locks"},
    {"grooves", "Grooves", "", "smooth", "deep"},
    {"taper", "Taper", "", "blunt", "flame"},
    {"flick", "Tips turn up", "deg", "down", "up", -40, 60},
    {"gravity", "Hangs", "", "stands by itself", "hangs down", 0, 2},
    {"stiffness", "Stiffness", "", "follows the skin", "stiff", 0.05f, 0.95f},
};
//                         len wide  thick rows spread fall lift dens var   wave  curl clump groov taper flick grav stiff
constexpr float kManes[] = {18, 0.17f, 0.55f, 4, 8, 60, 26, 1, 0.5f, 0.35f, 0, 0.7f, 0.7f, 1, 0, 1.1f, 0.3f};

constexpr Setting kCrownSettings[] = {
    {"length", "Length", "mm", "short", "long", 1, 150},
    {"width", "Width", "", "thin", "broad", 0.06f, 0.6f},
    {"thickness", "Thickness", "", "flat", "round", 0.15f, 1},
    {"count", "Count", "", "one", "many", 1, 24, true},
    {"distance", "Distance from the middle", "mm", "close", "wide", 0, 60},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 85},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"wave", "Wave", "", "straight", "wavy", 0, 0.9f},
    {"curl", "Curl", "", "none", "ringlets"},
    {"clump", "Clumps", "", "single", "locks of locks"},
    {"grooves", "Grooves", "", "smooth", "deep"},
    {"taper", "Taper", "", "blunt", "flame"},
    {"flick", "Tips turn up", "deg", "down", "up", -40, 60},
    {"gravity", "Hangs", "", "stands by itself", "hangs down", 0, 2},
    {"stiffness", "Stiffness", "", "follows the skin", "stiff", 0.05f, 0.95f},
};
//                          len wide  thick n  dist lift var   wave  curl clump groov taper flick grav  stiff
constexpr float kCrowns[] = {14, 0.26f, 0.5f, 7, 1.5f, 62, 0.6f, 0.3f, 0, 0.7f, 0.7f, 1, 0, 0.3f, 0.85f};

constexpr Setting kMassSettings[] = {
    {"thickness", "Thickness", "mm", "thin", "thick", 0.1f, 40},
    {"soft", "Border", "", "a step", "soft"},
    {"lumps", "Lumps", "", "smooth", "lumpy"},
    {"lumpSize", "Lump size", "mm", "small", "large", 0.5f, 60},
    {"sink", "Sink", "mm", "on the skin", "deep", 0.05f, 10},
    {"cut", "Cuts between locks", "mm", "narrow", "wide", 0.1f, 5},
    {"flare", "Cuts open upward", "", "straight", "wide"},
};
//                          thick soft lumps size sink cut flare
constexpr float kMasses[] = {4, 1, 0.4f, 8, 0.5f, 0.4f, 0.5f};

constexpr Setting kFibreSettings[] = {
    {"height", "Length", "mm", "short", "long", 0.5f, 120},
    {"spacing", "Between tufts", "mm", "dense", "thin", 0.4f, 20},
    {"strands", "Hairs in a tuft", "", "one", "many", 1, 60, true},
    {"hair", "Hair thickness", "mm", "fine", "coarse", 0.02f, 1},
    {"tip", "Tip", "", "pointed", "blunt", 0.05f, 1},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 90},
    {"curve", "Curve", "deg", "straight", "bent to the skin", -30, 120},
    {"clump", "Clumps", "", "loose", "to a point"},
    {"curl", "Curl", "", "none", "ringlets"},
    {"kink", "Kink", "", "none", "kinked"},
    {"frizz", "Frizz", "", "none", "frizzy"},
    {"stray", "Strays", "", "none", "many", 0, 0.5f},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"border", "Shorter at the border", "", "even", "fades out"},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 5},
    {"uneven", "Uneven at the middle", "mm", "mirrored", "wide", 0, 40},
    {"variants", "Different tufts", "", "all alike", "no two alike", 1, 16, true},
};
//                           len space n  hair tip   lift curve clump curl kink frizz stray var  border turn sink uneven variants
constexpr float kFibres[] = {6, 1.6f, 14, 0.12f, 0.25f, 40, 35, 0.5f, 0, 0.2f, 0.2f, 0.06f, 0.5f, 0.7f, 0, 0.1f, 4, 8};

constexpr Setting kFeatherSettings[] = {
    {"height", "Length", "mm", "short", "long", 1, 200},
    {"width", "Width", "", "narrow", "broad", 0.06f, 1},
    {"thickness", "Thickness", "mm", "thin", "thick", 0.1f, 5},
    {"spacing", "Spacing", "mm", "dense", "thin", 0.5f, 60},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 90},
    {"curve", "Curve", "deg", "straight", "bent to the skin", -40, 120},
    {"round", "End", "", "pointed", "round"},
    {"outer", "Outer side", "", "as wide", "narrow"},
    {"notches", "Splits", "", "whole", "torn"},
    {"barbs", "Barbs", "", "smooth", "deep"},
    {"down", "Down at the root", "", "bare", "fluffy"},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"border", "Smaller at the border", "", "even", "fades out"},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 20},
    {"uneven", "Uneven at the middle", "mm", "mirrored", "wide", 0, 40},
    {"variants", "Different shapes", "", "all alike", "no two alike", 1, 8, true},
    {"body", "Made", "", "", "", 0, 1, true, kBodies},
};
//                             len wide  thick space lift curve round outer notch barbs down var  border turn sink uneven variants
constexpr float kFeathers[] = {11, 0.42f, 0.55f, 3.6f, 13, 22, 0.8f, 0, 0.25f, 0.5f, 0.4f, 0.4f, 0.7f, 0, 0.3f, 2, 4, 0};

constexpr Setting kFlightSettings[] = {
    {"height", "Length", "mm", "short", "long", 1, 300},
    {"width", "Width", "", "narrow", "broad", 0.04f, 1},
    {"thickness", "Thickness", "mm", "thin", "thick", 0.1f, 5},
    {"count", "Count", "", "by spacing", "many", 0, kMostInRow, true},
    {"spacing", "Spacing", "mm", "by size", "far apart", 0, 100},
    {"overlap", "Overlap", "", "apart", "one over the other", -1, 0.8f},
    {"lean", "Lean", "deg", "to the beginning", "to the end", -80, 80},
    {"fan", "Fan", "deg", "side by side", "spread", -120, 120},
    {"turn", "Turn", "deg", "along the line", "across it", -180, 180},
    {"splay", "Lift", "deg", "down", "up", -80, 80},
    {"curve", "Curve", "deg", "straight", "bent down", -60, 120},
    {"round", "End", "", "pointed", "round"},
    {"outer", "Outer side", "", "as wide", "narrow"},
    {"notches", "Splits", "", "whole", "torn"},
    {"barbs", "Barbs", "", "smooth", "deep"},
    {"down", "Down at the root", "", "bare", "fluffy"},
    {"jitter", "Jitter", "", "even", "uneven"},
    {"sink", "Sink", "", "on the skin", "half sunk", 0, 0.6f},
    {"variants", "Different shapes", "", "all alike", "no two alike", 1, 8, true},
    {"body", "Made", "", "", "", 0, 1, true, kBodies},
};
//                            len wide  thick n  space over  lean fan turn splay curve round outer notch barbs down jitt  sink variants
constexpr float kFlights[] = {38, 0.2f, 0.6f, 0, 0, 0.25f, 15, 50, 9, 0, 10, 0.6f, 0.7f, 0.3f, 0.5f, 0, 0.15f, 0, 4, 0};

constexpr Setting kQuillSettings[] = {
    {"height", "Length", "mm", "short", "long", 0.5f, 200},
    {"width", "Width", "", "thin", "stout", 0.015f, 0.5f},
    {"spacing", "Spacing", "mm", "dense", "thin", 0.5f, 60},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 90},
    {"curve", "Curve", "deg", "straight", "bent to the skin", -60, 120},
    {"grooves", "Grooves", "", "smooth", "deep"},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"border", "Shorter at the border", "", "even", "fades out"},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 20},
    {"uneven", "Uneven at the middle", "mm", "mirrored", "wide", 0, 40},
    {"variants", "Different shapes", "", "all alike", "no two alike", 1, 8, true},
};
//                          len wide  space lift curve groov var  border turn sink uneven variants
constexpr float kQuills[] = {20, 0.06f, 4, 32, 12, 0.3f, 0.5f, 0.7f, 0, 0.5f, 3, 6};

constexpr Setting kCopySettings[] = {
    {"height", "Size of the stone", "mm", "small", "large", 0.3f, 100},
    {"count", "Count", "", "by spacing", "many", 0, kMostInRow, true},
    {"spacing", "Spacing", "mm", "close", "far apart", 0, 200},
    {"lines", "Lines", "", "", "", 1, 3, true, kLines},
    {"apart", "Lines apart", "mm", "close", "far", 0, 100},
    {"lean", "Lean", "deg", "forward", "backward", -180, 180},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"splay", "Splay", "deg", "inward", "outward", -180, 180},
    {"sink", "Sink", "", "on the skin", "half sunk", 0, 0.6f},
    {"jitter", "Jitter", "", "even", "uneven"},
    {"variants", "Different stones", "", "all alike", "no two alike", 1, 8, true},
};
//                          high n  space lines apart lean turn splay sink jitt  variants
constexpr float kCopies[] = {4, 9, 0, 1, 10, 0, 0, 0, 0, 0.2f, 3};

constexpr Setting kScatterSettings[] = {
    {"height", "Size of the stone", "mm", "small", "large", 0.3f, 100},
    {"spacing", "Spacing", "mm", "dense", "thin", 0.4f, 100},
    {"lift", "Lift", "deg", "lies flat", "stands up", 0, 90},
    {"turn", "Turn", "deg", "left", "right", -180, 180},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"border", "Smaller at the border", "", "even", "fades out"},
    {"sink", "Sink", "mm", "on the skin", "deep", 0, 50},
    {"uneven", "Uneven at the middle", "mm", "mirrored", "wide", 0, 40},
    {"variants", "Different stones", "", "all alike", "no two alike", 1, 8, true},
};
//                           high space lift turn var  border sink uneven variants
constexpr float kScatters[] = {3, 5, 90, 0, 0.5f, 0.5f, 0.3f, 0, 4};

constexpr Kind kKinds[] = {
    {"horn", "Horn", "A horn on a coil, a bend or a drawn line, with rings, grooves and a chipped tip.", "Horn", Rooting::Point,
     kHornSettings, kHorn, onePlace, hornShape, nullptr, nullptr, TakesPath | Sectioned | Coloured},
    {"tusk", "Tusk", "A smooth tusk that curves outward or up, worn at its tip.", "Horn", Rooting::Point, kHornSettings, kTusk,
     onePlace, hornShape, nullptr, nullptr, TakesPath | Sectioned | Coloured},
    {"antler", "Antler", "A beam with tines, a palm and a burr at its root.", "Horn", Rooting::Point, kAntlerSettings, kAntlers,
     antlerParts, antlerShape, nullptr, nullptr, Coloured},
    {"plates", "Plates", "Plates along a line, no two alike.", "Row", Rooting::Line, kRowSettings, kPlates, alongLine, plateShape,
     rowMaterial, nullptr, Repeats | Coloured},
    {"spikes", "Spikes", "Spikes along a line.", "Row", Rooting::Line, kRowSettings, kSpikes, alongLine, plateShape, rowMaterial,
     nullptr, Repeats | Coloured},
    {"scutes", "Scutes", "Low round shields along a line.", "Row", Rooting::Line, kRowSettings, kScutes, alongLine, plateShape,
     rowMaterial, nullptr, Repeats | Coloured},
    {"shells", "Shells", "Plates that lie back over each other with thin rims, soft sacs between them.", "Row", Rooting::Line,
     kRowSettings, kShells, alongLine, plateShape, rowMaterial, nullptr, Repeats | Coloured},
    {"fangs", "Fangs", "Pointed teeth along a gum line.", "Teeth and claws", Rooting::Line, kToothSettings, kFangs, alongLine,
     toothShape, nullptr, nullptr, Repeats | OnJaws | Coloured},
    {"incisors", "Incisors", "Chisel teeth side by side along a gum line.", "Teeth and claws", Rooting::Line, kToothSettings,
     kIncisors, alongLine, toothShape, nullptr, nullptr, Repeats | OnJaws | Coloured},
    {"molars", "Molars", "Grinding teeth with cusps along a gum line.", "Teeth and claws", Rooting::Line, kToothSettings, kMolars,
     alongLine, toothShape, nullptr, nullptr, Repeats | OnJaws | Coloured},
    {"needles", "Needles", "Thin crowded teeth along a gum line.", "Teeth and claws", Rooting::Line, kToothSettings, kNeedles,
     alongLine, toothShape, nullptr, nullptr, Repeats | OnJaws | Coloured},
    {"claw", "Claw", "A hooked claw with a ridge and a groove.", "Teeth and claws", Rooting::Point, kClawSettings, kClaws,
     atRoots, clawShape, nullptr, nullptr, AtTips | Repeats | Coloured},
    {"nail", "Nail", "A flat nail with a blunt end.", "Teeth and claws", Rooting::Point, kClawSettings, kNails, atRoots,
     clawShape, nullptr, nullptr, AtTips | Repeats | Coloured},
    {"hoof", "Hoof", "A blunt hoof with growth lines.", "Teeth and claws", Rooting::Point, kClawSettings, kHooves, atRoots,
     clawShape, nullptr, nullptr, AtTips | Repeats | Coloured},
    {"locks", "Locks", "Fur as closed locks that lie along the flow as tiles on a roof.", "Fur", Rooting::Area, kLockSettings,
     kLocks, preparedLocks, lockShape, nullptr, prepareLocks, ShapedByPlace | Coloured},
    {"mane", "Mane", "Rows of locks along a line that fall to its sides.", "Fur", Rooting::Line, kManeSettings, kManes,
     preparedLocks, lockShape, nullptr, prepareMane, ShapedByPlace | Coloured},
    {"crown", "Crown", "Tufts about a place, one of them leading.", "Fur", Rooting::Point, kCrownSettings, kCrowns, preparedLocks,
     lockShape, nullptr, prepareCrown, ShapedByPlace | Coloured},
    {"mass", "Mass", "The skin under a mask lifted off as one body: fur as a silhouette, to be turned into a piece and carved.",
     "Fur", Rooting::Area, kMassSettings, kMasses, massParts, massShape, hairMaterial, prepareMass,
     ShapedByPlace | IsCut | Coloured},
    {"fibres", "Fibres", "Fine hair in tufts: half a mask, half the hair.", "Fur", Rooting::Area, kFibreSettings, kFibres,
     overArea, tuftShape, hairMaterial, prepareArea, Bundle | Culled | Coloured, tuftCurves},
    {"feathers", "Feathers", "Feathers that lie along the flow, one over the other.", "Feathers and quills", Rooting::Area,
     kFeatherSettings, kFeathers, overArea, featherShape, nullptr, prepareArea, Culled | Coloured, nullptr, featherTexture},
    {"flight", "Pinions", "A fan of long flight feathers along a wing's edge or a tail.", "Feathers and quills", Rooting::Line,
     kFlightSettings, kFlights, alongLine, featherShape, nullptr, nullptr, Coloured, nullptr, featherTexture},
    {"quills", "Quills", "Bare quills and spines along the flow.", "Feathers and quills", Rooting::Area, kQuillSettings, kQuills,
     overArea, quillShape, nullptr, prepareArea, Culled | Coloured},
    {"fin", "Fin", "Skin stretched between spines along a line.", "Membrane", Rooting::Line, kFinSettings, kFins, oneFin,
     finShape, nullptr, nullptr, ShapedByPlace | Coloured},
    {"membrane", "Membrane", "Skin stretched between lines: a wing between fingers, a dewlap, webs.", "Membrane", Rooting::Lines,
     kMembraneSettings, kMembranes, oneMembrane, membraneShape, nullptr, nullptr, ShapedByPlace | Stretches | Coloured},
    {"eye", "Eye", "A ball with iris, pupil and lids that close over it.", "Eyes", Rooting::Point, kEyeSettings, kEyes, eyeParts,
     eyeShape, eyeMaterial, nullptr, Looks},
    {"copies", "Copies", "An item, or stones, along a line.", "Copies", Rooting::Line, kCopySettings, kCopies, alongLine,
     pebbleShape, nullptr, nullptr, Repeats | Coloured},
    {"scattered", "Scattered", "An item, or stones, over an area.", "Copies", Rooting::Area, kScatterSettings, kScatters,
     overArea, pebbleShape, nullptr, prepareArea, Repeats | Culled | Coloured},
    {"ring", "Ring", "Spikes, or copies of an item, in a ring about a place: crowns, tufts, suckers.", "Copies", Rooting::Point,
     kRingSettings, kRings, aroundRoot, plateShape, nullptr, nullptr, Repeats | Coloured},
};

template <std::size_t... K> constexpr bool areWhole(std::index_sequence<K...>)
{
    return ((kKinds[K].settings.size() == kKinds[K].usual.size()) && ...);
}
static_assert(areWhole(std::make_index_sequence<std::size(kKinds)>{}), "each kind has a usual value for each of its settings");

} // namespace

std::span<const Kind> kinds()
{
    return kKinds;
}

const Kind *kindNamed(std::string_view name)
{
    const auto it = std::find_if(std::begin(kKinds), std::end(kKinds), [&](const Kind &k) { return k.name == name; });
    return it == std::end(kKinds) ? nullptr : it;
}

} // namespace bonemoss::outgrowth
