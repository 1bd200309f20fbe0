// The live bench for levels of one number of dimensions.
#pragma once

#include <mutex>

#include "report/live/live_hunt.hpp"
#include "report/live/live_play.hpp"
#include "report/live/live_survey.hpp"
#include "report/live/live_tune.hpp"
#include "report/live/rig_history.hpp"

namespace hollow_probe {

template <int D>
class LiveRoom {
  public:
    using Tell = std::function<void(const Json&)>;
    LiveRoom(LiveFiles files, const LiveOptions& options, Level<D> level, Tell tell);

    [[nodiscard]] std::string page() const;
    /// Throws InvalidInput and InputError for what cannot be answered.
    Json answer(const Json& question);
    void look_at_files();

  private:
    using Answer = Json (LiveRoom::*)(const Json&);

    Json ask_hello(const Json& question);
    Json ask_pose(const Json& question);
    Json ask_edit(const Json& question);
    Json ask_part(const Json& question);
    Json ask_text(const Json& question);
    Json ask_undo(const Json& question);
    Json ask_redo(const Json& question);
    Json ask_save(const Json& question);
    Json ask_take_theirs(const Json& question);
    Json ask_keep_mine(const Json& question);
    Json ask_before(const Json& question);
    Json ask_fix(const Json& question);
    Json ask_tune(const Json& question);
    Json ask_stop_tuning(const Json& question);
    Json ask_take_tuned(const Json& question);
    Json ask_play(const Json& question);
    Json ask_ticks(const Json& question);
    Json ask_drill(const Json& question);
    Json ask_hunt(const Json& question);
    Json ask_stop_hunting(const Json& question);
    Json ask_write_hunted(const Json& question);

    /// What a page must know of the rig as it is now; with the lock held.
    [[nodiscard]] Json state() const;
    /// After the rig has changed; with the lock held: tells all pages, and surveys anew.
    void changed();
    void start_survey();
    [[nodiscard]] TuneOptions<D> tune_options(const Json& question) const;
    /// Where drills that were played are kept.
    [[nodiscard]] std::string drill_folder() const;
    void write_drill(const std::string& text) const;
    void write_changes(const Rig<D>& before, const Rig<D>& after, const std::string& gesture);

    LiveFiles files_;
    LiveOptions options_;
    Tell tell_;
    mutable std::mutex mutex_;
    std::shared_ptr<const Level<D>> level_;
    std::string level_text_;
    RigHistory<D> history_;
    std::shared_ptr<const Rig<D>> rig_;
    std::string before_name_;
    std::shared_ptr<const Rig<D>> before_;
    std::size_t revision_ = 1;
    std::string notice_;  // what is wrong with a file that has changed
    std::mutex play_mutex_;
    std::optional<LivePlay<D>> play_;
    LiveTune<D> tuning_;
    LiveHunt<D> hunting_;
    LiveSurvey<D> surveying_;
};

extern template class LiveRoom<2>;
extern template class LiveRoom<3>;

}  // namespace hollow_probe
