// The rig that surveys and drills are measured with.
#pragma once

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe::bench {

template <int D>
Vec<D> at(double forward, double up) {
    return forward * Vec<D>::unit(0) + up * Vec<D>::unit(1);
}

/// A keeper with a sole, a crown, a shin, a chest, two rays over the edge ahead and two beside: every
/// claim but headroom.
template <int D>
Rig<D> keeper() {
    Rig<D> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8)};
    rig.intent.ahead_wall = 0.1;
    rig.intent.ahead_step = 0.1;
    const auto add = [&](const char* name, const Vec<D>& from, const Vec<D>& along, double reach,
                         double least_angle, double most_angle, double radius) {
        Probe<D> probe;
        probe.name = name;
        probe.line().from = from;
        probe.line().along = along;
        probe.line().reach = reach;
        probe.sees = {"masonry"};
        probe.line().accept_least_degrees = least_angle;
        probe.line().accept_most_degrees = most_angle;
        probe.line().take = Take::all;
        if (radius > 0.0) {
            probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), radius);
        }
        rig.probes.push_back(probe);
        return std::string(name);
    };
    const Vec<D> down = -Vec<D>::unit(1);
    const Vec<D> forward = Vec<D>::unit(0);
    add("sole", at<D>(0, 0.4), down, 0.12, 0.0, 45.0, 0.3);
    add("crown", at<D>(0, 1.4), -down, 0.12, 120.0, 180.0, 0.3);
    add("shin", at<D>(0, 0.2), forward, 0.4, 45.0, 100.0, 0.0);
    add("chest", at<D>(0, 1.0), forward, 0.4, 45.0, 120.0, 0.0);
    add("edge", at<D>(0.5, 0.4), down, 1.35, 0.0, 45.0, 0.0);
    add("far edge", at<D>(0.8, 0.4), down, 1.35, 0.0, 45.0, 0.0);
    add("brow", at<D>(0, 1.7), forward, 0.8, 45.0, 120.0, 0.0);
    add("heel", at<D>(-0.25, 0.4), down, 0.5, 0.0, 45.0, 0.0);
    const auto claim = [&](const char* name, Claim claims, std::vector<Member> any, std::vector<Member> all,
                           std::vector<Member> none) {
        Signal signal;
        signal.name = name;
        signal.claims = claims;
        signal.members.any = std::move(any);
        signal.members.all = std::move(all);
        signal.members.none = std::move(none);
        rig.signals.push_back(signal);
    };
    claim("grounded", Claim::ground, {"sole"}, {}, {});
    claim("bumped", Claim::ceiling, {"crown"}, {}, {});
    claim("blocked", Claim::wall, {"chest"}, {}, {});
    claim("stepping", Claim::step, {"shin"}, {}, {"chest"});
    claim("at the edge", Claim::drop, {}, {"grounded"}, {"edge"});
    claim("before a ledge", Claim::ledge, {"chest"}, {}, {"brow"});
    return rig;
}

}  // namespace hollow_probe::bench
