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
            {"promise", promise_text(tuned.before, tuned.after)}};
}

}  // namespace

template <int D>
void LiveTune<D>::start(std::size_t revision, std::shared_ptr<const Level<D>> level,
                        std::shared_ptr<const Rig<D>> rig, std::vector<FreeSetting> free) {
    stop();
    stops_ = false;
    thread_ = std::thread(
        [this, revision, level = std::move(level), rig = std::move(rig), free = std::move(free)]() mutable {
            const auto tell = [&](const char* what, Json data) {
                tell_({{"tell", what}, {"revision", revision}, {"data", std::move(data)}});
            };
            TuneOptions<D> options;
            options.free = std::move(free);
            options.survey.threads = threads_;
            options.survey.stop = [this] { return stops_.load(); };
            double told = -1.0;
            options.progress = [&](double done) {
                if (done - told < 0.01) return;
                told = done;
                tell("tuning", {{"done", done}});
            };
            try {
                tell("tuning", {{"done", 0.0}});
                const TunedRig<D> tuned = tune<D>({level.get()}, *rig, options);
                {
                    const std::lock_guard lock(mutex_);
                    found_ = {revision, tuned.rig};
                }
                tell("tuned", tuned_data<D>(tuned));
            } catch (const SurveyStopped&) {
                tell("tuned", {{"refused", "stopped"}});
            } catch (const std::exception& error) {
                tell("tuned", {{"refused", error.what()}});
            }
        });
}

template <int D>
void LiveTune<D>::stop() {
    stops_ = true;
    if (thread_.joinable()) thread_.join();
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
