#include "report/live/live_tune.hpp"

#include "hollow_probe/report/advice_text.hpp"

namespace hollow_probe {
namespace {

template <int D>
Json tuned_data(const TunedRig<D>& tuned) {
    Json settings = Json::array();
    for (const TunedSetting& one : tuned.settings) {
        settings.push_back({{"path", one.path},
                            {"was", one.was},
                            {"is", one.is},
                            {"from", number_or_null(one.alone[0])},
                            {"to", number_or_null(one.alone[1])}});
    }
    return {{"settings", std::move(settings)},
            {"better", tuned.better()},
            {"right", tuned.right()},
            {"tried", tuned.tried},
            {"broken_before", tuned.broken_before},
            {"broken_after", tuned.broken_after},
            {"promise", promise_text(tuned.before, tuned.after)}};
}

}  // namespace

template <int D>
void LiveTune<D>::start(std::size_t revision, std::shared_ptr<const Level<D>> level,
                        std::shared_ptr<const Rig<D>> rig, TuneOptions<D> options) {
    search_.start(revision, "tuned",
                  [this, revision, level = std::move(level), rig = std::move(rig),
                   options = std::move(options)](const LiveSearch::Say& say) {
                      TuneOptions<D> own = options;
                      own.survey.threads = threads_;
                      own.survey.stop = [this] { return search_.stopped(); };
                      double told = 0.0;
                      own.progress = [&](double done) {
                          if (done - told < 0.01) return;
                          told = done;
                          say("tuning", {{"done", done}});
                      };
                      say("tuning", {{"done", 0.0}});
                      const TunedRig<D> tuned = tune<D>({level.get()}, *rig, own);
                      {
                          const std::lock_guard lock(mutex_);
                          found_ = {revision, tuned.rig};
                      }
                      say("tuned", tuned_data<D>(tuned));
                  });
}

template <int D>
Rig<D> LiveTune<D>::found(std::size_t revision) const {
    const std::lock_guard lock(mutex_);
    if (!found_ || found_->first != revision)
        throw InvalidInput("nothing was found by tuning for the rig as it is now");
    return found_->second;
}

template class LiveTune<2>;
template class LiveTune<3>;

}  // namespace hollow_probe
