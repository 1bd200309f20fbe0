#include "hollow_probe/verify/comparison.hpp"

#include <algorithm>

#include "geometry/parallel.hpp"
#include "verify/hearing.hpp"

namespace hollow_probe {
namespace {

template <int D>
bool is_same(const Facing<D>& a, const Facing<D>& b) {
    return a.heading == b.heading && a.arrival == b.arrival && a.velocity == b.velocity &&
           a.drive == b.drive && a.grounded == b.grounded && a.seconds == b.seconds;
}

}  // namespace

template <int D>
std::vector<std::optional<SignalSet>> said_at(const Level<D>& level, const Rig<D>& rig, const Rig<D>& of,
                                              const Survey<D>& survey, const SurveyOptions& options) {
    KeptTruths<D> kept;
    const Planned<D> own(level, rig, options, kept);
    // The rig's number of each state; none where it does not have it.
    constexpr std::size_t none = ~std::size_t{0};
    std::vector<std::size_t> number_of;
    for (const Facing<D>& facing : survey.facings) {
        std::size_t number = none;
        for (std::size_t i = 0; i < own.facings.size(); ++i) {
            const Facing<D>& other = own.facings[i];
            if (is_same<D>(facing, other) &&
                of.body.stances[facing.stance].name == rig.body.stances[other.stance].name)
                number = i;
        }
        number_of.push_back(number);
    }
    std::vector<std::optional<SignalSet>> said(survey.poses.size());
    for_each_index(survey.poses.size(), [&](std::size_t i) {
        SurveyPose<D> pose = survey.poses[i];
        const std::size_t number = number_of[pose.facing];
        if (number == none) return;
        pose.facing = static_cast<std::uint16_t>(number);
        said[i] = hear<D>(own, own.mounted[number], pose).signals_on;
    });
    return said;
}

template <int D>
Comparison compare_at(const Level<D>& level, const Rig<D>& before, const Survey<D>& of_before,
                      const Rig<D>& now, const Survey<D>& after, const SurveyOptions& options) {
    const bool same_signals = std::equal(
        before.signals.begin(), before.signals.end(), after.signals.begin(), after.signals.end(),
        [](const Signal& a, const SignalVerdicts& b) { return a.name == b.name && a.claims == b.claims; });
    if (!same_signals) throw InvalidInput("the two rigs have different signals");
    SignalSet judged;
    for (std::size_t i = 0; i < after.signals.size(); ++i) judged.put(i, after.signals[i].claims.has_value());
    Comparison result;
    const auto said = said_at<D>(level, before, now, after, options);
    for (std::size_t i = 0; i < said.size(); ++i) {
        if (!said[i]) continue;
        ++result.poses;
        const SurveyPose<D>& pose = after.poses[i];
        const SignalSet counted = judged & ~(pose.undecided | pose.forgiven);
        const SignalSet wrong_before = (*said[i] ^ pose.truths_on) & counted;
        const SignalSet wrong_now = (pose.signals_on ^ pose.truths_on) & counted;
        const auto count = [](SignalSet set) { return static_cast<std::size_t>(set.count()); };
        result.mended += count(wrong_before & ~wrong_now);
        result.spoiled += count(wrong_now & ~wrong_before);
        result.still_wrong += count(wrong_now & wrong_before);
    }
    if (result.poses == 0)
        throw InvalidInput("the two rigs are surveyed in different states: they have no poses in common");
    const auto has = [](const Survey<D>& survey, const std::string& id) {
        return std::any_of(survey.findings.begin(), survey.findings.end(),
                           [&](const Finding<D>& finding) { return finding.id == id; });
    };
    for (const Finding<D>& finding : of_before.findings)
        (has(after, finding.id) ? result.unchanged : result.cured).push_back(finding.id);
    for (const Finding<D>& finding : after.findings) {
        if (!has(of_before, finding.id)) result.fresh.push_back(finding.id);
    }
    return result;
}

template std::vector<std::optional<SignalSet>> said_at<2>(const Level<2>&, const Rig<2>&, const Rig<2>&,
                                                          const Survey<2>&, const SurveyOptions&);
template std::vector<std::optional<SignalSet>> said_at<3>(const Level<3>&, const Rig<3>&, const Rig<3>&,
                                                          const Survey<3>&, const SurveyOptions&);
template Comparison compare_at<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const Rig<2>&,
                                  const Survey<2>&, const SurveyOptions&);
template Comparison compare_at<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const Rig<3>&,
                                  const Survey<3>&, const SurveyOptions&);

}  // namespace hollow_probe
