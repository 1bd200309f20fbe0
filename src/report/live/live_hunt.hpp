// A hunt that goes on from what was played, begun and stopped from the live bench.
#pragma once

#include <memory>
#include <mutex>
#include <optional>

#include "hollow_probe/motion/hunt.hpp"
#include "report/live/live_play.hpp"
#include "report/live/live_search.hpp"

namespace hollow_probe {

/// It tells "hunting" with how far it is, and at the end "hunted": the drill that was found, as a file's
/// text, with what it breaks in words; or that nothing was found, or why not.
template <int D>
class LiveHunt {
  public:
    LiveHunt(int threads, LiveSearch::Tell tell) : threads_(threads), search_(std::move(tell)) {}

    /// Keeps what the player did up to the drill's last cue but `seconds`, and searches what may come after.
    /// Without expectations of its own it must not come to any missed or false tick. `base` is the text the
    /// drill came from, `folder` where it would be written.
    void start(std::size_t revision, std::shared_ptr<const Level<D>> level, std::shared_ptr<const Rig<D>> rig,
               Drill<D> drill, DrillText base, std::string folder, double kept_seconds);
    void stop() { search_.stop(); }
    /// The text of the drill that was found. Throws InvalidInput where none was.
    [[nodiscard]] std::string found() const;

  private:
    int threads_;
    mutable std::mutex mutex_;
    std::optional<std::string> found_;
    LiveSearch search_;  // last: it uses the others
};

extern template class LiveHunt<2>;
extern template class LiveHunt<3>;

}  // namespace hollow_probe
