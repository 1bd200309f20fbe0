#include "verify/hearing.hpp"

#include <algorithm>

#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "verify/way_over.hpp"

namespace hollow_probe {

template <int D>
std::vector<MoveContact<D>> contacts_at(const Planned<D>& planned, const MountedRig<D>& rig,
                                        std::size_t facing, const Vec<D>& anchor) {
    return touched_by<D>(planned.level_of(facing), rig, anchor, planned.rig.intent.touch);
}

namespace {

/// The level itself.
template <int D>
class AskedGround {
  public:
    AskedGround(const Planned<D>& planned, std::size_t facing)
        : level_(planned.level_of(facing)), rig_(planned.mounted[facing]), intent_(planned.rig.intent) {}

    bool fits(std::size_t /*ticks_back*/, const Vec<D>& at) const {
        return !clip<D>(level_, placed_body<D>(rig_, at), intent_).on;
    }
    double to_rest(std::size_t /*ticks_back*/, const Vec<D>& at, double height) {
        const Vec<D>& up = level_.up();
        find_rests<D>(level_, {rig_.body.view(), at - up.dot(at) * up, rig_.meets}, intent_, rests_, nullptr,
                      Held::from_below, {height - intent_.tallest_step, height + intent_.tallest_step});
        return to_nearest_rest(rests_, height, intent_.tallest_step);
    }

  private:
    const Level<D>& level_;
    const MountedRig<D>& rig_;
    const Intent& intent_;
    std::vector<double> rests_;
};

}  // namespace

template <int D>
Way<D> way_to(const Planned<D>& planned, std::size_t facing, const Vec<D>& anchor, double above_rest) {
    Way<D> way = way_over<D>(planned, facing, anchor, above_rest, AskedGround<D>(planned, facing));
    if (planned.feels_contacts) {
        for (const Vec<D>& at : way.anchors)
            way.touched.push_back(contacts_at<D>(planned, planned.mounted[facing], facing, at));
    }
    return way;
}

namespace {

template <int D>
Tick<D> tick_at(const Planned<D>& planned, const Way<D>& way, std::size_t number) {
    const std::size_t last = number > 0 ? number - 1 : 0;
    const std::uint64_t events = number == way.jump ? ~std::uint64_t{0} : 0;
    Tick<D> now{way.anchors[number], way.anchors[last], planned.tick_seconds, events, {}};
    const bool moves_later = planned.mounted[way.facing].reads_before_move();
    if (planned.feels_contacts) now.contacts = way.touched[moves_later ? last : number];
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

template <int D>
Heard hear(const Planned<D>& planned, const MountedRig<D>& rig, const SurveyPose<D>& pose,
           std::span<Reading<D>> readings) {
    if (planned.ticks_before > 0 || planned.feels_contacts)
        return hear<D>(planned, rig, way_to<D>(planned, pose), readings);
    const ReadingSet on = rig.probes_on(planned.level_of(pose.facing), pose.anchor, readings);
    return {on, rig.signals_on(on)};
}

template Way<2> way_to<2>(const Planned<2>&, std::size_t, const Vec<2>&, double);
template std::vector<MoveContact<2>> contacts_at<2>(const Planned<2>&, const MountedRig<2>&, std::size_t,
                                                    const Vec<2>&);
template void read_along<2>(const Planned<2>&, Way<2>&);
template SignalSet signals_after<2>(const Planned<2>&, const MountedRig<2>&, const Way<2>&);
template Heard hear<2>(const Planned<2>&, const MountedRig<2>&, const Way<2>&, std::span<Reading<2>>);
template Heard hear<2>(const Planned<2>&, const MountedRig<2>&, const SurveyPose<2>&, std::span<Reading<2>>);
template Way<3> way_to<3>(const Planned<3>&, std::size_t, const Vec<3>&, double);
template std::vector<MoveContact<3>> contacts_at<3>(const Planned<3>&, const MountedRig<3>&, std::size_t,
                                                    const Vec<3>&);
template void read_along<3>(const Planned<3>&, Way<3>&);
template SignalSet signals_after<3>(const Planned<3>&, const MountedRig<3>&, const Way<3>&);
template Heard hear<3>(const Planned<3>&, const MountedRig<3>&, const Way<3>&, std::span<Reading<3>>);
template Heard hear<3>(const Planned<3>&, const MountedRig<3>&, const SurveyPose<3>&, std::span<Reading<3>>);

}  // namespace hollow_probe
