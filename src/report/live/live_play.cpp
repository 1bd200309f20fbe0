#include "report/live/live_play.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/rig/differences.hpp"
#include "motion/shrink.hpp"
#include "report/live/live_pose.hpp"
#include "report/pose_data.hpp"

namespace hollow_probe {
namespace {

namespace fs = std::filesystem;

/// Every digit, so that what is read back is the same number.
template <int D>
std::string exact(const Vec<D>& v) {
    std::string text = "[";
    for (int axis = 0; axis < D; ++axis) {
        std::string number = fmt::format("{}", v[axis] + 0.0);
        if (number.find_first_of(".e") == std::string::npos) number += ".0";
        text += (axis > 0 ? ", " : "") + number;
    }
    return text + "]";
}

template <int D>
SignalSet ground_signals(const Rig<D>& rig) {
    SignalSet signals;
    for (std::size_t s = 0; s < rig.signals.size(); ++s)
        signals.put(s, rig.signals[s].claims == Claim::ground);
    return signals;
}

}  // namespace

template <int D>
DrillText standard_drill(const std::string& level_file, const std::string& rig_file, const Rig<D>& rig,
                         const std::string& folder) {
    // A body of 1.8 falls at 20, jumps half its height and walks 4 in a second.
    const double size = rig.body.stances.front().shape.bounds().size().largest() / 1.8;
    const auto seen = [&](const std::string& file) {
        return quoted_text(fs::weakly_canonical(file)
                               .lexically_relative(fs::weakly_canonical(folder.empty() ? "." : folder))
                               .generic_string());
    };
    return {
        fmt::format("# Played by hand.\nformat = \"hollow-probe drill 1\"\nlevel = {}\nrig = {}\nat = {}\n"
                    "seconds = 1.0\n\n[motion]\nmodel = \"slide\"\ngravity = {}\njump_speed = {}\n"
                    "top_speed = {}\n",
                    seen(level_file), seen(rig_file), exact<D>(Vec<D>::zero()), file_number(20.0 * size),
                    file_number(6.0 * size), file_number(4.0 * size)),
        (fs::path(folder) / "played.drill.toml").string()};
}

template <int D>
std::string started_at(const std::string& text, const Rig<D>& rig, const Pose<D>& pose) {
    std::string result;
    bool in_root = true;
    bool placed = false;
    const std::string start =
        fmt::format("at = {}\nheading = {}\nstance = {}\n", exact<D>(pose.anchor), exact<D>(pose.heading),
                    quoted_text(rig.body.stances[pose.stance].name));
    for (std::size_t begin = 0; begin < text.size();) {
        const std::size_t end = std::min(text.find('\n', begin), text.size());
        const std::string line = text.substr(begin, end - begin);
        begin = end + 1;
        const std::size_t first = line.find_first_not_of(" \t");
        const bool heading = first != std::string::npos && line[first] == '[';
        const std::string key =
            first == std::string::npos ? "" : line.substr(first, line.find_first_of(" \t=", first) - first);
        const bool replaced =
            in_root && (key == "start" || key == "at" || key == "heading" || key == "stance");
        if (in_root && (replaced || heading) && !placed) {
            result += start;
            placed = true;
        }
        in_root = in_root && !heading;
        if (!replaced) result += line + "\n";
    }
    return placed ? result : result + start;
}

std::string expectation_text(const Expectation& expected) {
    return fmt::format("\n[[expect]]\nmost = {{ {} = {} }}\nsignal = {}\n", expected.figure,
                       file_number(expected.limit), quoted_text(expected.signal));
}

template <int D>
LivePlay<D>::LivePlay(std::shared_ptr<const Level<D>> level, std::shared_ptr<const Rig<D>> rig,
                      DrillText drill)
    : level_(std::move(level)),
      rig_(std::move(rig)),
      base_(std::move(drill)),
      drill_(drill_from_toml<D>(base_.text, base_.path, *level_, *rig_)),
      game_(*level_, *rig_, drill_),
      keys_(keys_of<D>(*rig_)) {}

template <int D>
Json LivePlay<D>::begin() {
    shapes_sent_.clear();
    return {{"keys", keys_},
            {"tick_rate", drill_.tick_rate},
            {"model", name_of(drill_.motion.model)},
            {"frames", Json::array({frame()})}};
}

/// Shapes are sent once a stance, heading and rig: ticks are many.
template <int D>
void LivePlay<D>::send_shapes_once(Json& pose, const std::string& key) {
    if (shapes_sent_.insert(key).second) {
        Json shapes = Json::array();
        for (const Json& probe : pose["probes"]) shapes.push_back(probe["shape"]);
        pose["shapes"] = {{"body", pose["body"]}, {"probes", std::move(shapes)}};
    }
    pose["shape_key"] = key;
    pose.erase("body");
    pose.erase("around");
    for (Json& probe : pose["probes"]) probe.erase("shape");
}

template <int D>
Json LivePlay<D>::frame() {
    const TickRecord<D>& now = game_.now();
    const bool grounded = (now.signals_on & ground_signals<D>(*rig_)).any();
    PoseReading<D> reading(game_.level(), *rig_,
                           {now.anchor, now.heading, now.stance, now.velocity, now.drive, grounded});
    // What the game read, which may have been before the move.
    std::copy(game_.readings().begin(), game_.readings().end(), reading.readings.begin());
    reading.signals_on = now.signals_on;
    Json pose = pose_data<D>(reading);
    const std::string key = fmt::format("{} {}", now.stance, exact<D>(now.heading));
    send_shapes_once(pose, key);
    Json before = nullptr;
    if (beside_ && now.stance < beside_->body.stances.size()) {
        before = pose_data<D>(PoseReading<D>(game_.level(), *beside_, reading.pose));
        send_shapes_once(before, fmt::format("{}, beside {}", key, besides_));
    }
    Json signals = Json::array();
    for (std::size_t s = 0; s < rig_->signals.size(); ++s) {
        const auto bit = [s](SignalSet set) { return unsigned{set.has(s)}; };
        signals.push_back(bit(now.signals_on) | bit(now.truths_on) << 1U | bit(now.undecided) << 2U |
                          bit(now.held) << 3U);
    }
    Json moved = Json::array();
    for (const std::uint32_t solid : game_.moving())
        moved.push_back(Json::array({solid, numbers_of<D>(game_.offset(solid))}));
    return {{"tick", game_.ticks()},
            {"seconds", now.seconds},
            {"at", numbers_of<D>(now.anchor)},
            {"velocity", numbers_of<D>(now.velocity)},
            {"heading", numbers_of<D>(now.heading)},
            {"stance", rig_->body.stances[now.stance].name},
            {"pressed", now.pressed},
            {"jumped", now.jumped},
            {"clip", now.clip},
            {"signals", std::move(signals)},
            {"moved", std::move(moved)},
            {"pose", std::move(pose)},
            {"before", std::move(before)}};
}

template <int D>
Json LivePlay<D>::ticks(std::size_t count, const Json& cues, const std::shared_ptr<const Rig<D>>& beside) {
    constexpr std::size_t most = 600;
    if (count > most) throw InvalidInput(fmt::format("{} ticks at once, expected {} at most", count, most));
    if (beside != beside_) {
        beside_ = beside;
        ++besides_;
    }
    if (!cues.is_null() && !cues.is_array()) throw InvalidInput("'cues' is no list");
    for (const Json& one : cues) {
        if (!one.is_object()) throw InvalidInput("a cue is no object");
        Cue<D> cue;
        if (one.contains("drive")) cue.drive = vector_from<D>(one["drive"], "drive");
        if (one.contains("heading")) cue.heading = vector_from<D>(one["heading"], "heading");
        if (one.contains("press") && one["press"].is_string()) cue.press = one["press"].get<std::string>();
        if (one.contains("stance") && one["stance"].is_string())
            cue.stance = one["stance"].get<std::string>();
        game_.give(std::move(cue));
    }
    Json frames = Json::array();
    for (std::size_t i = 0; i < count; ++i) {
        (void)game_.tick();
        frames.push_back(frame());
    }
    return {{"frames", std::move(frames)}};
}

namespace {

/// What is wrong at a tick, as an expectation that it breaks.
template <int D>
Expectation expectation_against(const Rig<D>& rig, const TickRecord<D>& tick) {
    for (std::size_t s = 0; s < rig.signals.size(); ++s) {
        const bool on = tick.signals_on.has(s);
        const bool wrong = rig.signals[s].claims && on != tick.truths_on.has(s) && !tick.undecided.has(s) &&
                           !tick.held.has(s);
        if (!wrong) continue;
        return {Expectation::Kind::most, on ? "false_ticks" : "missed_ticks", rig.signals[s].name, 0.0, ""};
    }
    throw InvalidInput("no signal is wrong at that tick: there is nothing to shorten to");
}

}  // namespace

template <int D>
Drill<D> LivePlay<D>::played(std::optional<std::size_t> to_tick) const {
    Drill<D> drill = game_.drill();
    if (to_tick && *to_tick < game_.ticks()) {
        drill.seconds = static_cast<double>(std::max<std::size_t>(*to_tick, 1)) * (1.0 / drill.tick_rate);
        std::erase_if(drill.cues, [&](const Cue<D>& cue) { return cue.at >= drill.seconds; });
    }
    return drill;
}

template <int D>
std::string LivePlay<D>::written(const std::string& folder, std::optional<std::size_t> to_tick,
                                 bool shortened) const {
    Drill<D> drill = played(to_tick);
    std::string comment;
    if (shortened) {
        Stage<D> stage(*level_, *rig_);
        drill.expectations.clear();
        const TickRecord<D> last = stage.play(drill).last;
        drill.expectations = {expectation_against<D>(*rig_, last)};
        const Expectation expected = drill.expectations.front();
        const DrillRecord<D> record = stage.play(drill);
        if (record.broken.empty())
            throw InvalidInput("what is wrong at that tick is forgiven: there is nothing to shorten to");
        Broken broken = record.broken.front();
        drill = shrunk<D>(stage, drill, broken);
        comment = expectation_text(expected);
    }
    return with_cues<D>(base_.text, base_.path, folder, drill, comment);
}

template DrillText standard_drill<2>(const std::string&, const std::string&, const Rig<2>&,
                                     const std::string&);
template DrillText standard_drill<3>(const std::string&, const std::string&, const Rig<3>&,
                                     const std::string&);
template std::string started_at<2>(const std::string&, const Rig<2>&, const Pose<2>&);
template std::string started_at<3>(const std::string&, const Rig<3>&, const Pose<3>&);
template class LivePlay<2>;
template class LivePlay<3>;

}  // namespace hollow_probe
