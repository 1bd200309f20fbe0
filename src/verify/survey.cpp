#include "hollow_probe/verify/survey.hpp"

#include <algorithm>

#include "geometry/parallel.hpp"
#include "hollow_probe/verify/judge.hpp"
#include "verify/advising.hpp"
#include "verify/area_claims.hpp"
#include "verify/column_heights.hpp"
#include "verify/findings.hpp"
#include "verify/forgiveness.hpp"
#include "verify/found_work.hpp"
#include "verify/rounds.hpp"
#include "verify/value_errors.hpp"

namespace hollow_probe {

const char* name_of(Verdict verdict) {
    switch (verdict) {
        case Verdict::true_contact:
            return "true_contact";
        case Verdict::missed_contact:
            return "missed_contact";
        case Verdict::false_contact:
            return "false_contact";
        case Verdict::true_clear:
            return "true_clear";
        case Verdict::undecided:
            return "undecided";
        case Verdict::forgiven:
            return "forgiven";
    }
    return "";
}

const char* name_of(Arrival arrival) {
    static constexpr std::array names = {"stood", "walked", "fell", "jumped"};
    return names[static_cast<std::size_t>(arrival)];
}

const char* name_of(SurveyEnd end) {
    static constexpr std::array names = {"spacing", "budget", "stopped"};
    return names[static_cast<std::size_t>(end)];
}

namespace {

double part(double whole, double other) {
    return whole + other > 0.0 ? whole / (whole + other) : 1.0;
}

/// How many findings changes are tried for: a round that is told before the last says what matters most. None
/// are explained at all where that is 0.
constexpr std::size_t findings_before_last = 6;
/// … and how many poses of it are kept: the wrong ones among them are explained.
constexpr std::size_t poses_before_last = 6'000;
using MostAdvised = std::function<std::size_t(const RoundCount&)>;

template <int D>
std::vector<SignalVerdicts> verdicts_of(const Rig<D>& rig, const Samples<D>& samples) {
    std::vector<SignalVerdicts> signals;
    for (std::size_t signal = 0; signal < rig.signals.size(); ++signal) {
        SignalVerdicts verdicts;
        verdicts.name = rig.signals[signal].name;
        verdicts.claims = rig.signals[signal].claims;
        verdicts.measure = samples.measure[signal];
        verdicts.poses = samples.counts[signal];
        signals.push_back(std::move(verdicts));
    }
    return signals;
}

/// One look over the whole level, as the surveyed grid has it.
template <int D>
Survey<D> look_over(const Planned<D>& planned, const SurveyOptions& options, std::size_t most_tried,
                    const MostAdvised& advised) {
    const Rig<D>& rig = planned.rig;
    Samples<D> samples = take_samples<D>(planned, options.progress);
    Survey<D> result;
    Explained<D> explained;
    if (options.progress) options.progress(0.6);
    const std::size_t most_advised = advised(count_of<D>(samples));
    const bool explain = most_advised > 0;
    if (explain) explained = find_findings<D>(planned, samples, most_advised, options.progress);
    planned.stop_if_asked();
    result.findings = std::move(explained.findings);
    result.values = value_errors<D>(planned, samples, explain);
    result.claims = judge_claims<D>(planned, samples);
    result.spacing = planned.spacing;
    result.seed = options.seed;
    result.facings = planned.facings;
    result.grid_poses = samples.grid_poses;
    result.judged = samples.judged;
    result.border_poses = samples.judged - samples.grid_poses;
    result.right_kept_of = samples.right_step;
    result.wrong_kept_of = samples.wrong_step;
    result.asked = samples.asked;
    result.scope = samples.scope;
    result.scope.knows_reached = explained.knows_reached;
    result.scope.warnings = planned.level.warnings();
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        const bool on = samples.ever_on.has(i);
        const bool off = samples.ever_off.has(i);
        if (!on && off) result.scope.never_on.push_back(rig.probes[i].name);
        if (on && !off) result.scope.never_off.push_back(rig.probes[i].name);
    }
    result.signals = verdicts_of<D>(rig, samples);
    result.wrong = wrongness_of(result.signals);
    if (!explained.worth.empty()) {
        SurveyOptions quick = options;
        quick.explain = false;
        quick.progress = {};
        const auto wrongness = [&](const Rig<D>& changed) {
            planned.stop_if_asked();
            const Rig<D> scouting = scouts_at_poses<D>(changed);
            Planned<D> again(planned.level, scouting, quick, planned.kept);
            again.most_corners = planned.most_corners;
            again.most_halvings = planned.most_halvings;
            again.lay_grid(planned.spacing);
            return wrongness_of(verdicts_of<D>(scouting, take_samples<D>(again, {}, Keep::nothing)));
        };
        find_fixes<D>(planned, std::move(explained.candidates), explained.worth, most_tried, wrongness,
                      result);
    }
    result.poses = std::move(samples.poses);
    return result;
}

template <int D>
Survey<D> survey_here(const Level<D>& level, const Rig<D>& given, const SurveyOptions& options,
                      KeptTruths<D>& kept, const std::function<void(const Survey<D>&)>& each_round) {
    constexpr std::size_t poses_for_fixes = 2'500'000;
    check(given);
    const Rig<D> rig = scouts_at_poses<D>(given);
    Planned<D> planned(level, rig, options, kept);
    const std::size_t budget = budget_of(options);
    RoundPlan plan = rounds_of<D>(planned, options, static_cast<bool>(each_round));
    std::vector<SurveyRound> rounds;
    std::optional<Survey<D>> whole;
    RoundPlan of_whole = plan;
    RoundCount counted;
    std::size_t explained = 0;
    const auto look = [&](std::size_t most_kept, std::size_t most_tried, const MostAdvised& advised) {
        planned.most_kept = most_kept;
        lay_round<D>(planned, plan, options);
        if (options.parts != nullptr) planned.found = options.parts->found().of(spec_of<D>(planned));
        std::size_t explained_here = 0;
        Survey<D> round = look_over<D>(planned, options, most_tried, [&](const RoundCount& count) {
            counted = count;
            explained_here = advised(count);
            return explained_here;
        });
        explained = explained_here;
        rounds.push_back({round.spacing, round.judged});
        round.rounds = rounds;
        whole = std::move(round);
        of_whole = plan;
    };
    const auto fixes_tried = [&] {
        const std::size_t poses = rounds.empty() ? budget : rounds.back().poses;
        const std::size_t affordable =
            poses_for_fixes / std::max<std::size_t>(4 * std::max(budget, poses), 1);
        return options.most_tried.value_or(std::clamp<std::size_t>(affordable, 2, 12));
    };
    try {
        while (true) {
            const bool told = !plan.is_last() && each_round;
            const std::size_t most_kept =
                told ? std::min(poses_before_last, options.most_kept) : options.most_kept;
            look(most_kept, plan.is_last() ? fixes_tried() : 0, [&](const RoundCount& count) {
                if (!options.explain) return std::size_t{0};
                if (plan.ends_with(count)) return all_findings;
                return told ? findings_before_last : 0;
            });
            if (!plan.next(counted)) break;
            if (told) each_round(*whole);
        }
        whole->end = plan.ended_by_budget() ? SurveyEnd::budget : SurveyEnd::spacing;
    } catch (const SurveyStopped&) {
        if (!whole) throw;
        const bool all_said = explained > 0 && whole->wrong_kept_of == 1 && whole->right_kept_of == 1 &&
                              whole->findings.size() <= explained &&
                              (explained == all_findings || whole->poses.size() <= most_readings_before_last);
        if (options.explain && !all_said) {
            planned.stop = {};
            plan = of_whole;
            rounds.pop_back();
            look(options.most_kept, 0, [](const RoundCount&) { return all_findings; });
        }
        whole->end = SurveyEnd::stopped;
    }
    if (whole->judged == 0)
        throw InvalidInput(
            "there is no pose to judge: nothing can be felt, or the body fits nowhere, where the "
            "survey looks");
    if (options.progress) options.progress(1.0);
    return std::move(*whole);
}

}  // namespace

template <int D>
SurveyPose<D> judge_at(const Level<D>& level, const Rig<D>& given, const Facing<D>& facing,
                       const Vec<D>& anchor, double tick_seconds) {
    check(given);
    const Rig<D> rig = scouts_at_poses<D>(given);
    SurveyOptions options;
    options.tick_seconds = tick_seconds;
    if (level.has_paths()) options.times = {facing.seconds};
    if (!facing.velocity.is_zero(0.0)) options.speeds = {facing.velocity.norm()};
    KeptTruths<D> kept;
    Planned<D> s(level, rig, options, kept);
    s.facings = {facing};
    s.facings.front().moment = 0;
    s.mounted.clear();
    s.mounted.emplace_back(rig, s.level_of(0), facing.stance, s.situation(0));
    s.terms = {-1.0};  // nothing else is kept
    s.first = {0};
    const Level<D>& here = s.level_of(0);
    const Vec<D>& up = level.up();
    const double height = anchor.dot(up);
    const double far = 4.0 * (here.bounds().size().norm() + s.body_size + std::abs(height));
    const std::vector<double> rests =
        heights_of_column<D>(s, 0, Feelers<D>(s, 0).of_truths(), anchor - height * up, {-far, far}).rests;
    SurveyPose<D> pose;
    pose.anchor = anchor;
    const auto above = std::upper_bound(rests.begin(), rests.end(), height + 2.0 * rig.intent.touch);
    pose.above_rest = above == rests.begin() ? infinity : height - *std::prev(above);
    judge_anew<D>(s, pose);
    return pose;
}

double SignalVerdicts::precision() const {
    return part(of(Verdict::true_contact), of(Verdict::false_contact));
}

double SignalVerdicts::recall() const {
    return part(of(Verdict::true_contact), of(Verdict::missed_contact));
}

template <int D>
Survey<D> survey(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options) {
    KeptTruths<D> kept;
    return survey<D>(level, rig, options, kept);
}

template <int D>
Survey<D> survey(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, KeptTruths<D>& kept,
                 const std::function<void(const Survey<D>&)>& each_round) {
    if (!(options.border_fraction >= 0.0)) throw InvalidInput("border_fraction must be 0 or more");
    return on_threads(options.threads, [&] { return survey_here<D>(level, rig, options, kept, each_round); });
}

template SurveyPose<2> judge_at<2>(const Level<2>&, const Rig<2>&, const Facing<2>&, const Vec<2>&, double);
template SurveyPose<3> judge_at<3>(const Level<3>&, const Rig<3>&, const Facing<3>&, const Vec<3>&, double);
template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);
template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&, KeptTruths<2>&,
                             const std::function<void(const Survey<2>&)>&);
template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&, KeptTruths<3>&,
                             const std::function<void(const Survey<3>&)>&);

}  // namespace hollow_probe
