#include "report/live/live_hunt.hpp"

#include <fmt/format.h>

#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/report/drill_text.hpp"

namespace hollow_probe {
namespace {

/// Of every signal that claims something: no tick at which it is wrong.
template <int D>
std::vector<Expectation> nothing_wrong(const Rig<D>& rig) {
    std::vector<Expectation> all;
    for (const Signal& signal : rig.signals) {
        if (!signal.claims) continue;
        for (const char* const figure : {"missed_ticks", "false_ticks"})
            all.push_back({Expectation::Kind::most, figure, signal.name, 0.0, ""});
    }
    return all;
}

template <int D>
std::string words_of_found(const HuntResult<D>& result) {
    DrillOutcome outcome;
    outcome.tick_rate = result.found->tick_rate;
    outcome.seconds = result.found->seconds;
    outcome.figures = result.figures;
    outcome.expectations = result.expectations;
    return broken_sentence(outcome, result.broken);
}

}  // namespace

template <int D>
void LiveHunt<D>::start(std::size_t revision, std::shared_ptr<const Level<D>> level,
                        std::shared_ptr<const Rig<D>> rig, Drill<D> drill, DrillText base, std::string folder,
                        double kept_seconds) {
    search_.stop();
    {
        const std::lock_guard lock(mutex_);
        found_.reset();
    }
    search_.start(
        revision, "hunted",
        [this, level = std::move(level), rig = std::move(rig), drill = std::move(drill),
         base = std::move(base), folder = std::move(folder), kept_seconds](const LiveSearch::Say& say) {
            constexpr std::size_t most_ticks = 4'000'000;
            Drill<D> hunted = drill;
            const bool own = !hunted.expectations.empty();
            if (!own) hunted.expectations = nothing_wrong<D>(*rig);
            HuntOptions options;
            options.threads = threads_;
            options.most_ticks = most_ticks;
            options.kept_seconds = kept_seconds;
            options.stop = [this] { return search_.stopped(); };
            std::size_t told = 0;
            options.progress = [&](const HuntProgress& progress) {
                if (progress.ticks < told + most_ticks / 100) return;
                told = progress.ticks;
                say("hunting", {{"done", static_cast<double>(told) / most_ticks},
                                {"drills", progress.drills},
                                {"nearest", progress.nearest}});
            };
            say("hunting", {{"done", 0.0}, {"drills", 0}, {"nearest", 0.0}});
            const HuntResult<D> result = hunt<D>(*level, *rig, hunted, options);
            if (!result.found) {
                say("hunted", {{"refused", fmt::format("nothing found in {} drills{}", result.drills,
                                                       search_.stopped() ? ", stopped" : "")}});
                return;
            }
            const std::string words = words_of_found<D>(result);
            const std::string comment =
                fmt::format("\n# Found by a hunt: {}.\n", words) +
                (own ? "" : expectation_text(result.expectations[result.broken.expectation]));
            const std::string text = with_cues<D>(base.text, base.path, folder, *result.found, comment);
            {
                const std::lock_guard lock(mutex_);
                found_ = text;
            }
            say("hunted", {{"words", words}, {"text", text}, {"drills", result.drills}});
        });
}

template <int D>
std::string LiveHunt<D>::found() const {
    const std::lock_guard lock(mutex_);
    if (!found_) throw InvalidInput("no hunt has found anything");
    return *found_;
}

template class LiveHunt<2>;
template class LiveHunt<3>;

}  // namespace hollow_probe
