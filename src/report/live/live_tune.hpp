// Tuning, begun and stopped from the live bench.
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "hollow_probe/study/tune.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// One search at a time, on a thread of its own. It tells "tuning" with the part done, and at the end
/// "tuned": what was found, or why nothing was.
template <int D>
class LiveTune {
  public:
    using Tell = std::function<void(const Json&)>;
    LiveTune(int threads, Tell tell) : threads_(threads), tell_(std::move(tell)) {}
    ~LiveTune() { stop(); }
    LiveTune(const LiveTune&) = delete;
    LiveTune& operator=(const LiveTune&) = delete;
    LiveTune(LiveTune&&) = delete;
    LiveTune& operator=(LiveTune&&) = delete;

    /// Ends the search under way, if there is one.
    void start(std::size_t revision, std::shared_ptr<const Level<D>> level, std::shared_ptr<const Rig<D>> rig,
               std::vector<FreeSetting> free);
    void stop();
    /// What was found for a rig of that revision. Throws InvalidInput where nothing was.
    Rig<D> found(std::size_t revision) const;

  private:
    int threads_;
    Tell tell_;
    std::atomic<bool> stops_{false};
    mutable std::mutex mutex_;
    std::optional<std::pair<std::size_t, Rig<D>>> found_;
    std::thread thread_;
};

extern template class LiveTune<2>;
extern template class LiveTune<3>;

}  // namespace hollow_probe
