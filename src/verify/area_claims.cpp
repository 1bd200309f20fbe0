#include "verify/area_claims.hpp"

#include "verify/parallel.hpp"

namespace hollow_probe {
namespace {

/// What geometry says of a claim at a pose. Headroom and ledge are asked for the stance itself.
template <int D>
bool geometry_says(const Surveyed<D>& s, const SurveyPose<D>& pose, Claim truth) {
    const MountedRig<D>& mounted = s.mounted[pose.facing];
    const TruthQuestion<D> question{
        {mounted.body.view(), pose.anchor, mounted.meets}, mounted.heading, mounted.body.view()};
    return answer<D>(truth, s.level_of(pose.facing), question, s.rig.intent).on;
}

}  // namespace

template <int D>
std::vector<ClaimReport<D>> judge_claims(const Surveyed<D>& s, const Samples<D>& samples) {
    std::vector<ClaimReport<D>> reports;
    for (const AreaClaim& claim : s.level.claims()) {
        ClaimReport<D> report;
        report.claim = claim;
        const Area<D>& area = *s.level.find_area(claim.area);
        std::vector<std::size_t> inside;
        for (std::size_t i = 0; i < samples.poses.size(); ++i) {
            if (area.contains(samples.poses[i].anchor)) inside.push_back(i);
        }
        std::vector<std::uint8_t> geometry(inside.size());
        for_each_index(inside.size(), [&](std::size_t i) {
            geometry[i] = geometry_says<D>(s, samples.poses[inside[i]], claim.truth) ? 1 : 0;
        });
        std::uint64_t claimed = 0;
        for (std::size_t i = 0; i < s.rig.signals.size(); ++i) {
            if (s.rig.signals[i].claims == claim.truth) claimed |= std::uint64_t{1} << i;
        }
        std::optional<SurveyPose<D>> against_signal;
        report.poses = inside.size();
        for (std::size_t i = 0; i < inside.size(); ++i) {
            const SurveyPose<D>& pose = samples.poses[inside[i]];
            if ((geometry[i] != 0) != claim.always) {
                ++report.against_geometry;
                if (!report.first) report.first = pose;
            }
            const std::uint64_t on = pose.signals_on & claimed;
            if (claim.always ? on != claimed : on != 0) {
                ++report.against_signals;
                if (!against_signal) against_signal = pose;
            }
        }
        if (!report.first) report.first = against_signal;
        reports.push_back(report);
    }
    return reports;
}

template std::vector<ClaimReport<2>> judge_claims<2>(const Surveyed<2>&, const Samples<2>&);
template std::vector<ClaimReport<3>> judge_claims<3>(const Surveyed<3>&, const Samples<3>&);

}  // namespace hollow_probe
