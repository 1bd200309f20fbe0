// Playing by hand: ticks as they are asked for, each with all that is drawn of it, and the drill they make.
#pragma once

#include <memory>
#include <optional>
#include <set>

#include "hollow_probe/motion/play.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// A drill file to begin with: its text, and the path that files it names are seen from.
struct DrillText {
    std::string text;
    std::string path;
};

/// A drill file for a body that has none: moved by `slide`, at gravity, speeds and jumps in proportion to
/// its height. `folder` is where it would be kept.
template <int D>
DrillText standard_drill(const std::string& level_file, const std::string& rig_file, const Rig<D>& rig,
                         const std::string& folder);

/// The same drill, started at a pose: its `start`, `at`, `heading` and `stance` are replaced.
template <int D>
std::string started_at(const std::string& text, const Rig<D>& rig, const Pose<D>& pose);

/// What is expected of a signal's figure at most, as a block of a drill file.
std::string expectation_text(const Expectation& expected);

template <int D>
class LivePlay {
  public:
    /// Throws InputError for a text that is no drill of this level and rig.
    LivePlay(std::shared_ptr<const Level<D>> level, std::shared_ptr<const Rig<D>> rig, DrillText drill);

    /// What can be pressed, the tick rate, and tick 0.
    Json begin();
    /// So many ticks, at most 600, after `cues` were given: lists of {drive, heading, press, stance}.
    /// `beside` is another rig whose readings at the same poses come with each; null for none. Throws
    /// InvalidInput for cues that are none.
    Json ticks(std::size_t count, const Json& cues, const std::shared_ptr<const Rig<D>>& beside);
    /// The drill as a file for `folder`, up to a tick (nothing: all of it); `shortened`: to what still makes
    /// a signal wrong as it is at that tick. Throws InvalidInput where none is wrong there.
    std::string written(const std::string& folder, std::optional<std::size_t> to_tick, bool shortened) const;
    /// What was done up to a tick (nothing: all of it).
    [[nodiscard]] Drill<D> played(std::optional<std::size_t> to_tick) const;
    /// The file it began with.
    [[nodiscard]] const DrillText& base() const { return base_; }

  private:
    Json frame();
    void send_shapes_once(Json& pose, const std::string& key);

    std::shared_ptr<const Level<D>> level_;
    std::shared_ptr<const Rig<D>> rig_;
    DrillText base_;
    Drill<D> drill_;
    OpenDrill<D> game_;
    std::vector<std::string> keys_;
    std::set<std::string> shapes_sent_;
    std::shared_ptr<const Rig<D>> beside_;
    std::size_t besides_ = 0;  // how many there have been
};

extern template class LivePlay<2>;
extern template class LivePlay<3>;

}  // namespace hollow_probe
