#include "verify/hearing.hpp"

#include <algorithm>

#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"

namespace hollow_probe {

template <int D>
std::vector<MoveContact<D>> contacts_at(const Planned<D>& planned, const MountedRig<D>& rig,
                                        std::size_t facing, const Vec<D>& anchor) {
    return touched_by<D>(planned.level_of(facing), rig, anchor, planned.rig.intent.touch);
}

template <int D>
Way<D> way_to(const Planned<D>& planned, std::size_t facing, const Vec<D>& anchor, double above_rest) {
    const MountedRig<D>& rig_there = planned.mounted[facing];
    const Intent& intent = planned.rig.intent;
    const std::size_t ticks_of_way = planned.ticks_of_way;
    const Facing<D>& f = planned.facings[facing];
    const Level<D>& here = planned.level_of(facing);
    const Vec<D>& up = planned.level.up();
    const Vec<D> stride = planned.tick_seconds * f.velocity;
    Way<D> way;
    way.facing = facing;
    way.anchors.push_back(anchor);
    const auto fits = [&](const Vec<D>& at) {
        return !clip<D>(here, placed_body<D>(rig_there, at), intent).on;
    };
    if (ticks_of_way == 0) {
        // Only where it is counts.
    } else if (f.arrival == Arrival::jumped) {
        // Back down to the ground it took off from, where it stood.
        Vec<D> at = anchor - stride;
        double left = above_rest - stride.norm();
        while (left > 0.0 && way.anchors.size() < ticks_of_way && fits(at)) {
            way.anchors.push_back(at);
            at -= stride;
            left -= stride.norm();
        }
        // Far from any ground it has been on its way for longer than is remembered.
        const bool from_ground = above_rest > 0.0 && std::isfinite(above_rest);
        const Vec<D> ground = from_ground ? Vec<D>(anchor - above_rest * up) : way.anchors.back();
        const std::size_t flight = way.anchors.size();
        for (std::size_t i = 0; i < ticks_of_way; ++i) way.anchors.push_back(ground);
        way.jump = way.anchors.size() - flight;
    } else {
        const bool on_ground = f.arrival == Arrival::walked && std::abs(above_rest) <= intent.touch;
        std::vector<double> heights_there;
        Vec<D> at = anchor;
        for (std::size_t i = 0; i < ticks_of_way; ++i) {
            at -= stride;
            if (on_ground) {
                // Over whatever it could have walked on.
                const double now = up.dot(at) - above_rest;
                find_rests<D>(here, {rig_there.body.view(), at - up.dot(at) * up, rig_there.meets}, intent,
                              heights_there, nullptr, Held::from_below,
                              {now - intent.tallest_step, now + intent.tallest_step});
                double best = infinity;
                for (const double height : heights_there) {
                    if (std::abs(height - now) < std::abs(best)) best = height - now;
                }
                if (std::abs(best) <= intent.tallest_step) at += best * up;
            }
            if (!stride.isZero() && !fits(at)) break;
            way.anchors.push_back(at);
        }
    }
    std::reverse(way.anchors.begin(), way.anchors.end());
    if (planned.feels_contacts) {
        for (const Vec<D>& at : way.anchors)
            way.touched.push_back(contacts_at<D>(planned, rig_there, facing, at));
    }
    return way;
}

namespace {

template <int D>
Tick<D> tick_at(const Planned<D>& planned, const Way<D>& way, std::size_t number) {
    const Vec<D>& before = way.anchors[number > 0 ? number - 1 : 0];
    const std::uint64_t events = number == way.jump ? ~std::uint64_t{0} : 0;
    Tick<D> now{way.anchors[number], before, planned.tick_seconds, events, {}};
    if (planned.feels_contacts) now.contacts = way.touched[number];
    return now;
}

}  // namespace

template <int D>
void read_along(const Planned<D>& planned, Way<D>& way) {
    if (planned.ticks_before == 0) return;
    const MountedRig<D>& rig_there = planned.mounted[way.facing];
    RigMemory memory = rig_there.memory();
    std::vector<Reading<D>> readings(rig_there.probes.size());
    for (std::size_t i = 0; i < way.anchors.size(); ++i) {
        rig_there.tick(planned.level_of(way.facing), tick_at<D>(planned, way, i), memory, readings);
        ReadingSet on;
        for (std::size_t k = 0; k < readings.size(); ++k) {
            if (rig_there.probes[k].mounted) on |= rig_there.bits_of(k, readings[k]);
        }
        way.on.push_back(on);
    }
}

template <int D>
SignalSet signals_after(const Planned<D>& planned, const MountedRig<D>& rig_there, const Way<D>& way) {
    RigMemory memory = rig_there.memory();
    SignalSet signals;
    for (std::size_t i = 0; i < way.anchors.size(); ++i)
        signals = rig_there.remember(way.on[i], tick_at<D>(planned, way, i), memory);
    return signals;
}

template <int D>
Heard hear(const Planned<D>& planned, const MountedRig<D>& rig_there, const Way<D>& way,
           std::span<Reading<D>> readings) {
    const Level<D>& here = planned.level_of(way.facing);
    if (planned.ticks_before == 0) {
        const Tick<D> now = tick_at<D>(planned, way, way.anchors.size() - 1);
        const ReadingSet on = rig_there.probes_on(here, now.anchor, readings, now.contacts);
        return {on, rig_there.signals_on(on)};
    }
    RigMemory memory = rig_there.memory();
    std::vector<Reading<D>> own(readings.empty() ? rig_there.probes.size() : 0);
    const std::span<Reading<D>> read = readings.empty() ? std::span<Reading<D>>(own) : readings;
    Heard heard;
    for (std::size_t i = 0; i < way.anchors.size(); ++i)
        heard.signals_on = rig_there.tick(here, tick_at<D>(planned, way, i), memory, read);
    for (std::size_t i = 0; i < read.size(); ++i) {
        if (rig_there.probes[i].mounted) heard.probes_on |= rig_there.bits_of(i, read[i]);
    }
    return heard;
}

template Way<2> way_to<2>(const Planned<2>&, std::size_t, const Vec<2>&, double);
template std::vector<MoveContact<2>> contacts_at<2>(const Planned<2>&, const MountedRig<2>&, std::size_t,
                                                    const Vec<2>&);
template void read_along<2>(const Planned<2>&, Way<2>&);
template SignalSet signals_after<2>(const Planned<2>&, const MountedRig<2>&, const Way<2>&);
template Heard hear<2>(const Planned<2>&, const MountedRig<2>&, const Way<2>&, std::span<Reading<2>>);
template Way<3> way_to<3>(const Planned<3>&, std::size_t, const Vec<3>&, double);
template std::vector<MoveContact<3>> contacts_at<3>(const Planned<3>&, const MountedRig<3>&, std::size_t,
                                                    const Vec<3>&);
template void read_along<3>(const Planned<3>&, Way<3>&);
template SignalSet signals_after<3>(const Planned<3>&, const MountedRig<3>&, const Way<3>&);
template Heard hear<3>(const Planned<3>&, const MountedRig<3>&, const Way<3>&, std::span<Reading<3>>);

}  // namespace hollow_probe
