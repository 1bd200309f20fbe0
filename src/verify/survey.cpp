#include "hollow_probe/verify/survey.hpp"

#include <tbb/global_control.h>
#include <tbb/task_arena.h>

#include "rig/probes_of.hpp"
#include "verify/area_claims.hpp"
#include "verify/findings.hpp"
#include "verify/samples.hpp"
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

const char* name_of(CauseKind cause) {
    static constexpr std::array names = {
        "reach_short",   "aimed_beside",       "layer_unseen", "starts_inside",
        "angle_refused", "first_hit_shadowed", "not_sensed",   "combined_out",
        "gated_off",     "settling",           "muted",        "stepped_over",
        "reach_long",    "wider_than_body",    "layer_wrong",  "too_steep",
        "sensed_only",   "combined_in",        "not_solid",    "own_body",
        "held",          "edge_graze",         "one_way_side", "stale",
        "back_face",     "other_probe",        "too_coarse",   "not_mounted",
        "unexplained"};
    static_assert(names.size() == static_cast<std::size_t>(CauseKind::unexplained) + 1);
    return names[static_cast<std::size_t>(cause)];
}

const char* name_of(Arrival arrival) {
    static constexpr std::array names = {"stood", "walked", "fell", "jumped"};
    return names[static_cast<std::size_t>(arrival)];
}

namespace {

double part(double whole, double other) {
    return whole + other > 0.0 ? whole / (whole + other) : 1.0;
}

/// A pose is where a scout is read, not where the move ends that it looks along: probes that serve `blocked`
/// alone are read at the pose.
template <int D>
Rig<D> scouts_at_poses(const Rig<D>& rig) {
    Rig<D> result = rig;
    bool before_move = false;
    for (Probe<D>& probe : result.probes) {
        if (probe.kind == ProbeKind::contact) continue;
        const auto serves = [&](bool blocked) {
            return std::any_of(rig.signals.begin(), rig.signals.end(), [&](const Signal& signal) {
                return signal.claims && (signal.claims == Claim::blocked) == blocked &&
                       any_probe_of<D>(rig, signal.members,
                                       [&](const Probe<D>& used) { return used.name == probe.name; });
            });
        };
        if (serves(true) && !serves(false)) probe.reads = Reads::after_move;
        before_move = before_move || probe.reads.value_or(rig.reads) == Reads::before_move;
    }
    if (!before_move) result.reads = Reads::after_move;
    return result;
}

template <int D>
Survey<D> survey_here(const Level<D>& level, const Rig<D>& given, const SurveyOptions& options,
                      KeptTruths<D>& kept) {
    check(given);
    const Rig<D> rig = scouts_at_poses<D>(given);
    const Surveyed<D> surveyed(level, rig, options, kept);
    Samples<D> samples = take_samples<D>(surveyed, options.progress);
    if (samples.judged == 0)
        throw InvalidInput(
            "there is no pose to judge: nothing can be felt, or the body fits nowhere, where the "
            "survey looks");
    if (options.progress) options.progress(0.6);
    Survey<D> result;
    Explained<D> explained;
    if (options.explain) explained = find_findings<D>(surveyed, samples, options.progress);
    result.findings = std::move(explained.findings);
    result.values = value_errors<D>(surveyed, samples, options.explain);
    result.claims = judge_claims<D>(surveyed, samples);
    result.spacing = surveyed.spacing;
    result.seed = options.seed;
    result.facings = surveyed.facings;
    result.grid_poses = samples.grid_poses;
    result.judged = samples.judged;
    result.border_poses = samples.judged - samples.grid_poses;
    result.right_kept_of = samples.right_step;
    result.wrong_kept_of = samples.wrong_step;
    result.asked = samples.asked;
    result.scope = samples.scope;
    result.scope.knows_reached = explained.knows_reached;
    result.scope.warnings = level.warnings();
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        const bool on = samples.ever_on.has(i);
        const bool off = samples.ever_off.has(i);
        if (!on && off) result.scope.never_on.push_back(rig.probes[i].name);
        if (on && !off) result.scope.never_off.push_back(rig.probes[i].name);
    }
    for (std::size_t signal = 0; signal < rig.signals.size(); ++signal) {
        SignalVerdicts verdicts;
        verdicts.name = rig.signals[signal].name;
        verdicts.claims = rig.signals[signal].claims;
        verdicts.measure = samples.measure[signal];
        verdicts.poses = samples.counts[signal];
        result.signals.push_back(std::move(verdicts));
    }
    result.wrong = wrongness_of<D>(result);
    if (!explained.worth.empty()) {
        constexpr std::size_t poses_in_all = 2'500'000;
        const std::size_t affordable = poses_in_all / std::max<std::size_t>(samples.asked, 1);
        SurveyOptions quick = options;
        quick.explain = false;
        quick.progress = {};
        find_fixes<D>(
            surveyed, std::move(explained.candidates), explained.worth,
            options.most_tried.value_or(std::clamp<std::size_t>(affordable, 2, 12)),
            [&](const Rig<D>& changed) { return wrongness_of<D>(survey_here<D>(level, changed, quick, kept)); },
            result);
    }
    result.poses = std::move(samples.poses);
    if (options.progress) options.progress(1.0);
    return result;
}

}  // namespace

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
Survey<D> survey(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, KeptTruths<D>& kept) {
    if (options.threads < 0) throw InvalidInput("threads must not be negative");
    if (!(options.border_fraction >= 0.0)) throw InvalidInput("border_fraction must be 0 or more");
    const int threads = options.threads == 0 ? tbb::task_arena::automatic : options.threads;
    // The arena alone would not give more threads than cores.
    const tbb::global_control allow(
        tbb::global_control::max_allowed_parallelism,
        static_cast<std::size_t>(std::max(options.threads, tbb::this_task_arena::max_concurrency())));
    tbb::task_arena arena(threads);
    return arena.execute([&] { return survey_here<D>(level, rig, options, kept); });
}

template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&);
template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&);
template Survey<2> survey<2>(const Level<2>&, const Rig<2>&, const SurveyOptions&, KeptTruths<2>&);
template Survey<3> survey<3>(const Level<3>&, const Rig<3>&, const SurveyOptions&, KeptTruths<3>&);

}  // namespace hollow_probe
