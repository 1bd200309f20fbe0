// A rig mounted for one level, stance and heading, ready to be read at any anchor.
#pragma once

#include <bit>
#include <span>

#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// What one probe returned at one pose.
template <int D>
struct Reading {
    bool on = false;   // something was hit and accepted
    bool met = false;  // something was hit; `hit` says what
    LevelHit<D> hit;   // the accepted hit; when none was, the first one; when nothing was hit, of no meaning
};

/// A probe in level coordinates, relative to the anchor.
template <int D>
struct MountedProbe {
    MountedProbe(const Probe<D>& probe, const Level<D>& level, const Vec<D>& heading);

    RoundedHull<D> shape;  // for a ray a single point
    Vec<D> from;
    Vec<D> along;
    double reach;
    LayerSet sees;
    AngleRange accept;
    Take take;
    IfInside if_inside;
    bool mounted = true;  // in the present stance

    /// Allocates nothing, never throws.
    [[nodiscard]] Reading<D> read(const Level<D>& level, const Vec<D>& anchor) const noexcept;
    /// All that the probe may meet, relative to the anchor.
    [[nodiscard]] Bounds<D> bounds() const;
};

/// A signal over probe numbers, one bit a probe.
struct MountedSignal {
    std::uint64_t any = 0;
    std::uint64_t all = 0;
    std::uint64_t none = 0;
    bool has_any = false;
    std::uint64_t counted = 0;  // of these at least `least` must be on
    int least = 0;

    [[nodiscard]] std::uint64_t members() const noexcept { return any | all | none | counted; }

    /// `on` has the bits of the probes that are on.
    [[nodiscard]] bool value(std::uint64_t on) const noexcept {
        return (!has_any || (on & any) != 0) && (on & all) == all && (on & none) == 0 &&
               std::popcount(on & counted) >= least;
    }
};

/// Example:
///
///     const MountedRig<2> mounted(rig, level, 0, {1, 0});
///     std::vector<Reading<2>> readings(mounted.probes.size());
///     const std::uint64_t signals = mounted.evaluate(level, {3.0, 0.0}, readings);
///     const bool grounded = signals & 1;     // the rig's first signal
template <int D>
struct MountedRig {
    /// `stance` numbers rig.body.stances; `heading` is unit and perpendicular to up. Throws InvalidInput for
    /// a rig that check() refuses and for layers the level does not declare.
    MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance, const Vec<D>& heading);

    RoundedHull<D> body;  // the stance, relative to the anchor
    Vec<D> heading;
    std::vector<RoundedHull<D>> asked;  // by signal: the stance its claim is about, relative to the anchor
    LayerSet meets = 0;
    std::vector<MountedProbe<D>> probes;  // as in the rig
    std::vector<MountedSignal> signals;   // as in the rig
    Bounds<D> joint;                      // of the probes that are read in one traversal
    std::uint64_t joined = 0;             // their bits
    LayerSet joint_layers = 0;            // that they see

    /// Reads every probe with the anchor at `anchor`; returns the bits of the signals that are on. `readings`
    /// has room for all probes, or is empty if they are not wanted. Allocates nothing, takes no lock, never
    /// throws. One traversal of the level's index serves all probes that reach no farther than about the
    /// body's own size.
    std::uint64_t evaluate(const Level<D>& level, const Vec<D>& anchor,
                           std::span<Reading<D>> readings = {}) const noexcept;

    /// The bits of the probes that are on.
    std::uint64_t probes_on(const Level<D>& level, const Vec<D>& anchor,
                            std::span<Reading<D>> readings = {}) const noexcept;
    [[nodiscard]] std::uint64_t signals_on(std::uint64_t probes_on) const noexcept;

  private:
    void join_probes();

    static constexpr int most_joined = 32;  // probes; further ones are read by themselves
    std::vector<PreparedCast<D>> casts;     // of the probes
};

extern template struct MountedProbe<2>;
extern template struct MountedProbe<3>;
extern template struct MountedRig<2>;
extern template struct MountedRig<3>;

}  // namespace hollow_probe
