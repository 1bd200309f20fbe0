// Verdicts, advice and the data sheet of the rig as it is now, worked out beside everything else.
#pragma once

#include <atomic>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "hollow_probe/report/live.hpp"
#include "hollow_probe/report/page.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// What is to be worked out, and for which state of the rig.
template <int D>
struct LiveTask {
    std::size_t revision = 0;
    std::shared_ptr<const Level<D>> level;
    std::shared_ptr<const Rig<D>> rig;
    std::shared_ptr<const Rig<D>> before;
    SurveyNames names;
};

/// A newer task ends the one under way. Of each it tells, in this order: "verdicts", coarsely and
/// then closer; "before", the verdicts of the rig that it is held against; "sheet", its measured limits;
/// "advice", the survey with causes and fixes, where much is wrong first from the coarse look. What cannot be
/// worked out is told as "trouble".
template <int D>
class LiveSurvey {
  public:
    using Tell = std::function<void(const Json&)>;
    LiveSurvey(const LiveOptions& options, Tell tell);
    ~LiveSurvey();
    LiveSurvey(const LiveSurvey&) = delete;
    LiveSurvey& operator=(const LiveSurvey&) = delete;
    LiveSurvey(LiveSurvey&&) = delete;
    LiveSurvey& operator=(LiveSurvey&&) = delete;

    void start(LiveTask<D> task);
    /// The rig of a task with the fix of that number made, from 0. Throws InvalidInput where there is none,
    /// or the advice is not of that revision.
    Rig<D> fixed(std::size_t revision, std::size_t fix) const;
    /// The settings that the causes of the last advice name, at most four.
    [[nodiscard]] std::vector<std::string> named_by_causes() const;
    /// All that was told of the present task, for a page that comes later.
    [[nodiscard]] std::vector<Json> told() const;

  private:
    struct Kept;

    void work();
    using TellSurvey = std::function<void(const char*, const Survey<D>&, bool whole)>;

    void carry_out(const LiveTask<D>& task);
    void advise(const LiveTask<D>& task, SurveyOptions options, std::size_t most_tried,
                const TellSurvey& tell_survey);
    void tell(const LiveTask<D>& task, const char* what, Json data);
    [[nodiscard]] bool is_old(const LiveTask<D>& task) const { return newest_.load() != task.revision; }

    LiveOptions options_;
    Tell tell_;
    mutable std::mutex mutex_;
    std::condition_variable wake_;
    std::optional<LiveTask<D>> next_;
    std::atomic<std::size_t> newest_{0};
    bool ends_ = false;
    std::unique_ptr<Kept> kept_;
    std::optional<LiveTask<D>> advised_;  // what `advice_` is about
    Survey<D> advice_;
    std::vector<std::pair<std::string, Json>> told_;
    std::thread thread_;  // last: it uses all the others
};

extern template class LiveSurvey<2>;
extern template class LiveSurvey<3>;

}  // namespace hollow_probe
