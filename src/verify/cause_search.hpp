// One wrong verdict, and which changes flip it.
#pragma once

#include "verify/causes.hpp"

namespace hollow_probe {

template <int D>
class CauseSearch {
  public:
    CauseSearch(const Surveyed<D>& surveyed, const SurveyPose<D>& pose, std::size_t signal);

    /// Single changes, likeliest first.
    std::vector<ProvenCause<D>> singles();
    std::optional<ProvenCause<D>> combined();

  private:
    const Probe<D>& probe() const { return s_.rig.probes[static_cast<std::size_t>(probe_)]; }
    const MountedProbe<D>& mounted_probe() const { return mounted_.probes[static_cast<std::size_t>(probe_)]; }
    const Solid<D>& solid_of(std::uint32_t piece) const { return level_.solids()[level_.solid_of(piece)]; }
    /// Whether a level piece was hit.
    bool hit_level() const { return reading_.met && !reading_.own_body; }
    double hit_angle() const { return degrees(angle_between<D>(reading_.hit.normal, level_.up())); }
    /// A reach of the present situation as the rig file states it.
    ProvenCause<D> with_reach(CauseKind kind, double reach, double rank) const;

    /// Whether these changes make the signal right.
    bool flips(const ProvenCause<D>& cause) const;
    void offer(ProvenCause<D> cause);
    ProvenCause<D> cause(CauseKind kind, Change change, double rank, double amount = 0.0,
                         double by = 0.0) const;
    ProvenCause<D> choice(CauseKind kind, Change change, double rank, int detail) const;
    /// The least `amount` in (0, most] for which `make(amount)` flips, if some does: a coarse scan finds a
    /// flip, bisection its border.
    template <class Make>
    std::optional<ProvenCause<D>> least(double most, Make make) const;
    template <class Make>
    void offer_least(double most, Make make);

    void look_at(std::size_t probe);
    void aimed_otherwise();
    void senses_too_little();
    void starts_inside();
    void other_insides(double rank);
    void angle_refused();
    void reach_short();
    void aimed_beside();
    void one_line_only();
    void placed_too_little();
    void touched_too_little();
    void conditions_refused();
    bool on_same_ground(const Vec<D>& point) const;

    void senses_too_much();
    void wider_than_body();
    void too_steep();
    void grazes();
    void reach_long();
    void placed_too_much();
    void touched_too_much();
    void conditions_too_wide();

    void not_mounted();
    void combination();
    void memory();
    [[nodiscard]] bool reads_early() const;

    /// Changes as bold as can be, for combining.
    std::vector<ProvenCause<D>> bold();
    void bold_of_probe(std::size_t index, std::vector<ProvenCause<D>>& list);
    ProvenCause<D> least_of(ProvenCause<D> combined) const;

    const Surveyed<D>& s_;
    const SurveyPose<D>& pose_;
    typename Surveyed<D>::Way way_;  // on which the body came
    const Facing<D>& facing_;
    const MountedRig<D>& mounted_;
    const Level<D>& level_;
    std::size_t signal_;
    Claim claim_;
    bool missed_;
    Bounds<D> stance_;
    double unit_;  // the body's size
    TruthAnswer<D> truth_;
    std::vector<Reading<D>> readings_;
    int probe_ = -1;  // looked at; -1: the signal itself
    Reading<D> reading_;
    std::vector<ProvenCause<D>> causes_;
};

}  // namespace hollow_probe
