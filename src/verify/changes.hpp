// Changes to a rig: what a cause blames, and a cure makes.
#pragma once

#include "verify/surveyed.hpp"

namespace hollow_probe {

/// The one thing a cause changes.
enum class Change : std::uint8_t {
    none,
    reach,           // to `amount`
    reach_grounded,  // to `amount`
    from,            // moved by `shift` (body coordinates)
    aim,             // to the Aim numbered `detail`
    sees_more,       // layer `detail` added
    sees_less,       // layer `detail` removed
    accept_most,     // to `amount` degrees
    accept_least,    // to `amount` degrees
    take_all,
    if_inside,   // to the IfInside numbered `detail`
    start_back,  // start moved back along the line by `amount`, the end kept
    role_both,   // of solid `detail`, and all of its role on its layer: met by probes and body alike
    role_none,   // … met by neither
    narrower,    // the shape narrower by `amount` on each side
    lower_end,   // a zone's end towards `along` moved by `amount` along it, its other end kept
    one_way,     // to the OneWay numbered `detail`
    ignore_body,
    keep_set,     // a zone
    as_cast,      // a shift made a cast of the stance along the same way
    as_sole,      // a ray downwards made a cast of the rounded sole of stance `detail`
    inset,        // to `amount`
    side_within,  // to `amount` degrees
    match_other,  // only and includes swapped
    drop_member,  // member `detail` (a bit: of a reading, or 64 + of a derived one) taken out of the groups
    count,        // at_least.count to `detail`
    any_for_all,  // the `all` group asked as `any`
    all_for_any,  // the `any` group asked as `all`
    gate_by,      // signal `detail` added to `all`
    condition_angle_most,  // of condition `detail`, to `amount` degrees
    condition_angle_least,
    condition_distance_most,  // … to `amount`
    condition_distance_least,
    condition_layers,  // of condition `detail`: any
    settle,            // to `amount` seconds
    grace,
    mute,
    read_after,   // the move, not before
    faces_other,  // both and front swapped
    mount,        // in the facing's stance, too
};

inline constexpr std::size_t most_members = 128;  // of one list

template <int D>
struct ProvenCause {
    CauseKind kind = CauseKind::unexplained;
    Change change = Change::none;
    int probe = -1;   // index; -1: the signal
    int detail = -1;  // layer, member, …
    double amount = 0.0;
    Vec<D> shift = Vec<D>::Zero();
    double by = 0.0;                     // how far off, in level units, degrees or seconds
    double rank = 0.0;                   // the less, the likelier the cause meant
    std::vector<ProvenCause> with = {};  // further changes, made together with this one
};

/// The rig of one facing with a cause's changes made, ready to be tried at many poses of that facing.
template <int D>
class Alternative {
  public:
    Alternative(const Surveyed<D>& surveyed, std::size_t facing, std::size_t signal,
                const ProvenCause<D>& cause);

    /// The signals that are on at a pose of the facing.
    [[nodiscard]] std::uint64_t signals_on(const SurveyPose<D>& pose) const {
        return signals_on(pose, surveyed_.way_to(pose));
    }
    [[nodiscard]] std::uint64_t signals_on(const SurveyPose<D>& pose,
                                           const typename Surveyed<D>::Way& way) const;
    /// Whether the signal that the cause is one of is on.
    [[nodiscard]] bool signal_on(const SurveyPose<D>& pose) const {
        return (signals_on(pose) >> signal_ & 1U) != 0;
    }
    [[nodiscard]] bool signal_on(const SurveyPose<D>& pose, const typename Surveyed<D>::Way& way) const {
        return (signals_on(pose, way) >> signal_ & 1U) != 0;
    }
    /// The reading of the changed probe; of no meaning where the change is to none.
    [[nodiscard]] Reading<D> reading(const SurveyPose<D>& pose) const;

  private:
    void apply(const ProvenCause<D>& cause);
    Reading<D> read(const MountedProbe<D>& probe, const SurveyPose<D>& pose) const;
    MountedRig<D>& own_rig();

    const Surveyed<D>& surveyed_;
    std::size_t facing_;
    std::size_t signal_;
    std::vector<std::pair<std::size_t, MountedProbe<D>>> probes_;  // changed
    bool conditions_changed_ = false;
    bool reads_changed_ = false;
    std::optional<MountedRig<D>> rig_;  // where more than probes are changed, or the rig remembers
};

/// The probe with a change made; the same probe when the change is not one to a probe.
template <int D>
Probe<D> changed(const Probe<D>& probe, const ProvenCause<D>& cause, const Level<D>& level,
                 const Rig<D>& rig);

/// Fills in what the change is in the words of a rig file.
template <int D>
void describe(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, std::size_t signal,
              CauseReport& report);

}  // namespace hollow_probe
