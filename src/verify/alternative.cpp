#include "verify/alternative.hpp"

#include <algorithm>

#include "verify/facings_alike.hpp"

namespace hollow_probe {
namespace {

/// Whether readings, or the conditions on them, are no longer those of the rig surveyed.
template <int D>
bool changes_readings(const Change<D>& change, const MountedRig<D>& mounted) {
    if (const auto* const number = std::get_if<SetNumber>(&change)) return number->place.condition >= 0;
    if (const auto* const choice = std::get_if<SetChoice>(&change)) return choice->place.condition >= 0;
    const bool to_groups =
        std::holds_alternative<DropMember>(change) || std::holds_alternative<OtherGroup>(change);
    if (to_groups) return !mounted.conditions.empty();  // which are numbered by their groups
    return std::holds_alternative<ReadAfter>(change) || std::holds_alternative<ListName>(change);
}

bool is_mounting(const ListName* list) {
    return list != nullptr && list->key == "stances";
}

}  // namespace

template <int D>
Alternative<D>::Alternative(const Planned<D>& planned, std::size_t facing, const ProvenCause<D>& cause)
    : planned_(planned),
      facing_(facing),
      moves_a_start_(std::holds_alternative<MoveStart<D>>(cause.change) && cause.with.empty()) {
    apply(cause.change);
    for (const ProvenCause<D>& further : cause.with) apply(further.change);
    if (changed_) {
        rig_.emplace(*changed_, planned_.level_of(facing), planned_.facings[facing].stance,
                     planned_.situation(facing));
    } else if (planned_.ticks_before > 0) {
        rig_ = planned_.mounted[facing];
    }
    if (rig_) mount_changed();
}

template <int D>
void Alternative<D>::mount_changed() {
    for (const auto& [index, probe] : probes_) rig_->replace(index, probe);
}

template <int D>
void Alternative<D>::prepare() {
    if (rig_) return;
    rig_ = planned_.mounted[facing_];
    mount_changed();
}

template <int D>
bool Alternative<D>::takes(const ProvenCause<D>& cause) {
    const auto* const move = std::get_if<MoveStart<D>>(&cause.change);
    if (move == nullptr || !cause.with.empty() || !moves_a_start_ || rig_ || probes_.size() != 1)
        return false;
    auto& [index, probe] = probes_.front();
    if (static_cast<int>(index) != move->of_probe) return false;
    probe.start_at(*from_of(planned_.mounted[facing_].probes[index].probe()) + move->by);
    probe.aim(planned_.situation(facing_), planned_.level_of(facing_).up());
    return true;
}

template <int D>
void Alternative<D>::apply(const Change<D>& change) {
    const int probe = probe_of<D>(change);
    if (probe >= 0 && !is_mounting(std::get_if<ListName>(&change))) {
        apply_to_probe(change, static_cast<std::size_t>(probe));
        return;
    }
    if (!changed_) changed_ = planned_.rig;
    make<D>(change, *changed_);
    reads_anew_ = reads_anew_ || changes_readings<D>(change, planned_.mounted[facing_]);
}

template <int D>
void Alternative<D>::apply_to_probe(const Change<D>& change, std::size_t index) {
    const Level<D>& level = planned_.level_of(facing_);
    const MountedProbe<D>& surveyed = planned_.mounted[facing_].probes[index];
    Probe<D> probe = changed_or_surveyed(index).probe();
    if (std::holds_alternative<AsCast>(change)) {
        AsCast::make_of<D>(probe, surveyed.upright());  // of the present stance, whatever files can say
    } else {
        make<D>(change, probe, planned_.rig);
    }
    MountedProbe<D> mounted(probe, planned_.rig, level, planned_.facings[facing_].stance,
                            planned_.situation(facing_));
    mounted.zone = surveyed.zone;
    mounted.used_by = surveyed.used_by;
    if (const auto* const role = std::get_if<SetRole>(&change)) {
        const LayerSet bit = LayerSet{1} << level.solids()[role->solid].bit;
        mounted.sees = role->met ? mounted.sees | bit : mounted.sees & ~bit;
    }
    put(index, std::move(mounted));
    // Those that follow it start where the changed one leaves them.
    for (const std::size_t follower : followers_of<D>(planned_.rig, index))
        put(follower, changed_or_surveyed(follower));
}

template <int D>
const MountedProbe<D>& Alternative<D>::changed_or_surveyed(std::size_t index) const {
    for (const auto& [number, probe] : probes_) {
        if (number == index) return probe;
    }
    return planned_.mounted[facing_].probes[index];
}

template <int D>
void Alternative<D>::put(std::size_t index, MountedProbe<D> probe) {
    const std::string& follows = probe.probe().follows;
    for (std::size_t k = 0; k < index && !follows.empty(); ++k) {
        if (planned_.rig.probes[k].name == follows) probe.follow(changed_or_surveyed(k));
    }
    for (auto& [number, earlier] : probes_) {
        if (number != index) continue;
        earlier = std::move(probe);
        return;
    }
    probes_.emplace_back(index, std::move(probe));
}

template <int D>
SignalSet Alternative<D>::signals_on(const SurveyPose<D>& pose, const Way<D>& way) const {
    if (!hangs_on_way()) return signals_on(pose);
    const MountedRig<D>& rig = rig_ ? *rig_ : planned_.mounted[facing_];
    const bool read_alike = probes_.empty() && !reads_anew_ && !way.on.empty();
    return read_alike ? signals_after<D>(planned_, rig, way) : hear<D>(planned_, rig, way).signals_on;
}

template <int D>
bool Alternative<D>::hangs_on_way() const {
    return planned_.ticks_before > 0 || reads_anew_;
}

template <int D>
SignalSet Alternative<D>::signals_on(const SurveyPose<D>& pose) const {
    if (hangs_on_way()) return signals_on(pose, way_to<D>(planned_, pose));
    const MountedRig<D>& rig = rig_ ? *rig_ : planned_.mounted[facing_];
    ReadingSet on = pose.probes_on;
    for (const auto& [index, probe] : probes_) {
        on &= ~rig.bits_about(index);
        if (!probe.mounted) continue;
        const bool is_prepared = rig_ && probe.kind != ProbeKind::contact;
        on |= is_prepared ? rig.bits_at(index, planned_.level_of(facing_), pose.anchor)
                          : rig.bits_of(index, read(probe, pose, rig.wanted_of(index)));
    }
    return rig.signals_on(on);
}

template <int D>
Reading<D> Alternative<D>::read(const MountedProbe<D>& probe, const SurveyPose<D>& pose,
                                Wanted wanted) const {
    const MountedRig<D>& rig = planned_.mounted[facing_];
    std::vector<MoveContact<D>> touched;
    if (probe.kind == ProbeKind::contact) touched = contacts_at<D>(planned_, rig, facing_, pose.anchor);
    return probe.read(planned_.level_of(facing_), rig.body, pose.anchor, touched, wanted);
}

template <int D>
Reading<D> Alternative<D>::reading(const SurveyPose<D>& pose) const {
    return probes_.empty() ? Reading<D>{} : read(probes_.front().second, pose, Wanted::all);
}

template <int D>
bool Alternative<D>::is_alike(const Alternative& other) const {
    if (changed_ || other.changed_) {
        const auto same = [](const MountedProbe<D>& a, const MountedProbe<D>& b) {
            return reads_the_same<D>(a, b);
        };
        return rig_ && other.rig_ &&
               std::equal(rig_->probes.begin(), rig_->probes.end(), other.rig_->probes.begin(),
                          other.rig_->probes.end(), same);
    }
    return std::equal(probes_.begin(), probes_.end(), other.probes_.begin(), other.probes_.end(),
                      [](const auto& a, const auto& b) {
                          return a.first == b.first && reads_the_same<D>(a.second, b.second);
                      });
}

template class Alternative<2>;
template class Alternative<3>;

}  // namespace hollow_probe
