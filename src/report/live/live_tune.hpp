// Tuning, begun and stopped from the live bench.
#pragma once

#include <memory>
#include <mutex>
#include <optional>

#include "hollow_probe/study/tune.hpp"
#include "report/live/live_search.hpp"

namespace hollow_probe {

/// It tells "tuning" with the part done, and at the end "tuned": what was found, or why nothing was.
template <int D>
class LiveTune {
  public:
    LiveTune(int threads, LiveSearch::Tell tell) : threads_(threads), search_(std::move(tell)) {}

    /// Of `options`, all but progress, stop and threads.
    void start(std::size_t revision, std::shared_ptr<const Level<D>> level, std::shared_ptr<const Rig<D>> rig,
               TuneOptions<D> options);
    void stop() { search_.stop(); }
    /// What was found for a rig of that revision. Throws InvalidInput where nothing was.
    Rig<D> found(std::size_t revision) const;

  private:
    int threads_;
    mutable std::mutex mutex_;
    std::optional<std::pair<std::size_t, Rig<D>>> found_;
    LiveSearch search_;  // last: it uses the others
};

extern template class LiveTune<2>;
extern template class LiveTune<3>;

}  // namespace hollow_probe
