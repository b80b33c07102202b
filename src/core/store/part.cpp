#include "store/part.h"

#include "base/files.h"
#include "store/detail/form_manifest.h"
#include "document/finite.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::store {

using armature::Form;
using nlohmann::json;

namespace {

constexpr const char *kPartFormat = "bonemoss-part";
constexpr int kPartVersion = 1;
constexpr std::uintmax_t kLargestFile = 16u << 20;
constexpr std::size_t kMostForms = 2000;

} // namespace

Result<Part> readPart(const std::filesystem::path &path)
{
    std::error_code ec;
    const std::uintmax_t size = std::filesystem::file_size(path, ec);
    if (ec)
        return Error{ErrorCode::Unreadable, shownPath(path), ec.message()};
    if (size > kLargestFile)
        return Error{ErrorCode::TooLarge, shownPath(path), "is too large for a part"};
    const auto bytes = readFile(path);
    if (!bytes)
        return bytes.error();
    const char *text = reinterpret_cast<const char *>(bytes->data());
    const json j = json::parse(text, text + bytes->size(), nullptr, false);
    if (j.is_discarded() || !j.is_object() || j.value("format", json()) != kPartFormat)
        return Error{ErrorCode::Malformed, shownPath(path), "is not a part file"};
    try { // wrong kinds and missing members come as exceptions from the JSON library; none leaves here
        if (j.at("version").get<int>() > kPartVersion)
            return Error{ErrorCode::Unsupported, shownPath(path), "was written by a newer program"};
        Part part;
        part.title = j.at("title");
        part.outward = {j.at("outward").at(0), j.at("outward").at(1), j.at("outward").at(2)};
        part.turnsToNormal = j.at("turnsToNormal");
        part.fitsRadius = j.at("fitsRadius");
        if (j.at("forms").size() > kMostForms)
            return Error{ErrorCode::TooLarge, shownPath(path), fmt::format("holds more than {} forms", kMostForms)};
        for (const json &f : j.at("forms")) {
            part.armature.forms.push_back(detail::readForm(f));
            const Form &form = part.armature.forms.back();
            if (!document::isFinite(form))
                return Error{ErrorCode::Malformed, shownPath(path),
                             fmt::format("the form {} has a number that is too large", form.name)};
            const bool isKnown =
                form.parent == 0 ? part.armature.forms.size() == 1 : part.armature.find(form.parent) && form.parent != form.id;
            if (!isKnown || form.id == 0)
                return Error{ErrorCode::Malformed, shownPath(path), "its forms do not hang from one another"};
        }
        if (part.armature.forms.empty() || !(length(part.outward) > 0.5f) || !(part.fitsRadius > 0))
            return Error{ErrorCode::Malformed, shownPath(path), "holds no forms, or no size to fit"};
        part.outward = normalized(part.outward);
        return part;
    } catch (const std::exception &e) {
        return Error{ErrorCode::Malformed, shownPath(path), e.what()};
    }
}

Status writePart(const std::filesystem::path &path, const Part &part)
{
    json forms = json::array();
    for (const Form &f : part.armature.forms)
        forms.push_back(detail::writeForm(f));
    const json j = {{"format", kPartFormat},
                    {"version", kPartVersion},
                    {"title", part.title},
                    {"outward", {part.outward.x, part.outward.y, part.outward.z}},
                    {"turnsToNormal", part.turnsToNormal},
                    {"fitsRadius", part.fitsRadius},
                    {"forms", forms}};
    return writeFile(path, j.dump(1) + '\n');
}

Result<Part> partFrom(const Creature &c, std::uint32_t root)
{
    const Form *f = c.armature.find(root);
    if (!f)
        return Error{ErrorCode::Unknown, "form", "there is no such form"};
    Part part;
    part.title = f->name;
    const Transform world = c.armature.worldPlace(*f);
    std::uint32_t next = 1;
    std::vector<Form> broken; // copies that lose their guide
    std::vector<std::pair<std::uint32_t, std::uint32_t>> ids;
    const auto renamed = [&](std::uint32_t old) {
        const auto found = std::find_if(ids.begin(), ids.end(), [&](const auto &p) { return p.first == old; });
        return found == ids.end() ? 0 : found->second;
    };
    for (const std::uint32_t id : c.armature.branch(root))
        ids.push_back({id, next++});
    for (const auto &[old, now] : ids) {
        Form copy = *c.armature.find(old);
        if (old == root)
            copy.place = {{}, world.rotation, world.scale};
        copy.id = now;
        copy.parent = old == root ? 0 : renamed(copy.parent);
        copy.isLocked = copy.isKnitted = false;
        copy.link = copy.link ? 1000000 + copy.link : 0; // among themselves only; told apart from ids
        if (copy.repeat.mode == armature::RepeatMode::Along && !renamed(copy.repeat.guide)) {
            copy.repeat = {};
            const std::vector<Transform> places = placesOf(c.armature, *c.armature.find(old));
            for (std::size_t i = 1; i < places.size(); ++i) {
                Form one = copy;
                one.id = next++;
                one.parent = old == root ? now : copy.parent;
                const std::uint32_t above = old == root ? root : c.armature.find(old)->parent;
                one.place = relativeTo(c.armature.worldPlace(*c.armature.find(above)), places[i]);
                broken.push_back(std::move(one));
            }
        } else {
            copy.repeat.guide = renamed(copy.repeat.guide);
            if (old == root && copy.repeat.mode == armature::RepeatMode::Around) {
                const Form *parent = c.armature.find(f->parent);
                const Transform frame = parent ? c.armature.worldPlace(*parent) : Transform{};
                copy.repeat.centre = frame.apply(copy.repeat.centre) - world.translation;
                copy.repeat.axis = rotate(frame.rotation, copy.repeat.axis);
            }
        }
        part.armature.forms.push_back(std::move(copy));
    }
    part.armature.forms.insert(part.armature.forms.end(), broken.begin(), broken.end());
    Box3f box = armature::makeDistance(part.armature, std::vector<std::uint32_t>{1})->bounds();
    const Vec3f half = box.size() * 0.5f;
    part.fitsRadius = std::max(0.1f, std::min({half.x, half.y, half.z}));
    Box3f whole = box;
    if (!part.armature.forms.empty()) {
        std::vector<std::uint32_t> all;
        for (const Form &form : part.armature.forms)
            if (hasShape(form.kind))
                all.push_back(form.id);
        whole = all.empty() ? box : armature::makeDistance(part.armature, all)->bounds();
    }
    const Vec3f middle = whole.isEmpty() ? Vec3f{} : whole.centre();
    part.outward = length(middle) > 1e-3f ? normalized(middle) : Vec3f{0, 1, 0};
    return part;
}

std::filesystem::path dataFolder()
{
    std::error_code ec;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path();
    const auto installed = program / ".." / "share" / "bonemoss";
    return std::filesystem::exists(installed, ec) ? installed : std::filesystem::path(BONEMOSS_DATA_DIR);
}

const std::vector<ShelfEntry> &shippedParts()
{
    static const std::vector<ShelfEntry> all = [] {
        std::vector<ShelfEntry> found;
        std::error_code ec;
        constexpr std::string_view ending = ".part.json";
        for (const auto &entry : std::filesystem::directory_iterator(dataFolder() / "parts", ec)) {
            const std::string file = entry.path().filename().string();
            if (!file.ends_with(ending))
                continue;
            if (const auto part = readPart(entry.path()))
                found.push_back({file.substr(0, file.size() - ending.size()), part->title, entry.path()});
        }
        std::sort(found.begin(), found.end(), [](const auto &a, const auto &b) { return a.title < b.title; });
        return found;
    }();
    return all;
}

} // namespace bonemoss::store
