#include "verify/area_claims.hpp"

#include <algorithm>

#include "geometry/parallel.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// What geometry says of a claim at a pose. Headroom and ledge are asked for the stance itself, what is about
/// a direction for the heading.
template <int D>
bool geometry_says(const Planned<D>& s, const SurveyPose<D>& pose, Claim truth) {
    const MountedRig<D>& mounted = s.mounted[pose.facing];
    TruthQuestion<D> question{placed_body<D>(mounted, pose.anchor), mounted.heading, mounted.body.view()};
    question.move = s.rig.intent.planned_move(s.facings[pose.facing].velocity.norm());
    return answer<D>(truth, s.level_of(pose.facing), question, s.rig.intent).on;
}

/// The part of the heights that a pose stands for that lies in an area: the pose in the middle of it.
template <int D>
std::optional<SurveyPose<D>> within_area(const Area<D>& area, SurveyPose<D> pose, const Vec<D>& up) {
    auto low = -static_cast<double>(pose.down);
    auto high = static_cast<double>(pose.up);
    for (int axis = 0; axis < D; ++axis) {
        const double to_low = area.box.low[axis] - pose.anchor[axis];
        const double to_high = area.box.high[axis] - pose.anchor[axis];
        if (std::abs(up[axis]) < tolerance::direction) {
            if (to_low > 0.0 || to_high < 0.0) return std::nullopt;
            continue;
        }
        low = std::max(low, std::min(to_low / up[axis], to_high / up[axis]));
        high = std::min(high, std::max(to_low / up[axis], to_high / up[axis]));
    }
    if (low > high) return std::nullopt;
    if (!area.contains(pose.anchor)) pose.anchor += 0.5 * (low + high) * up;
    return pose;
}

}  // namespace

template <int D>
std::vector<ClaimReport<D>> judge_claims(const Planned<D>& s, const Samples<D>& samples) {
    std::vector<ClaimReport<D>> reports;
    for (const AreaClaim& claim : s.level.claims()) {
        ClaimReport<D> report;
        report.claim = claim;
        const Area<D>& area = *s.level.find_area(claim.area);
        std::vector<SurveyPose<D>> inside;
        for (const SurveyPose<D>& pose : samples.poses) {
            if (const auto there = within_area<D>(area, pose, s.level.up())) inside.push_back(*there);
        }
        std::vector<std::uint8_t> geometry(inside.size());
        for_each_index(inside.size(), [&](std::size_t i) {
            s.stop_if_asked();
            geometry[i] = geometry_says<D>(s, inside[i], claim.truth) ? 1 : 0;
        });
        SignalSet claimed;
        for (std::size_t i = 0; i < s.rig.signals.size(); ++i) {
            if (s.rig.signals[i].claims == claim.truth) claimed.put(i);
        }
        std::optional<SurveyPose<D>> against_signal;
        report.poses = inside.size();
        for (std::size_t i = 0; i < inside.size(); ++i) {
            const SurveyPose<D>& pose = inside[i];
            if ((geometry[i] != 0) != claim.always) {
                ++report.against_geometry;
                if (!report.first) report.first = pose;
            }
            const SignalSet on = pose.signals_on & claimed;
            if (claim.always ? on != claimed : on.any()) {
                ++report.against_signals;
                if (!against_signal) against_signal = pose;
            }
        }
        if (!report.first) report.first = against_signal;
        reports.push_back(report);
    }
    return reports;
}

template std::vector<ClaimReport<2>> judge_claims<2>(const Planned<2>&, const Samples<2>&);
template std::vector<ClaimReport<3>> judge_claims<3>(const Planned<3>&, const Samples<3>&);

}  // namespace hollow_probe
