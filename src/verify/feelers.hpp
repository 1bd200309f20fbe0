// The shapes by which a facing's rig and truths feel a level.
#pragma once

#include <optional>
#include <vector>

#include "verify/planned.hpp"
#include "verify/touching_heights.hpp"

namespace hollow_probe {

/// A shape that a signal or a truth depends on, relative to the anchor: the body, what it sweeps, a probe.
template <int D>
struct Feeler {
    RoundedHull<D> shape;
    LayerSet layers = 0;
    std::vector<double> beyond = {};  // how far above and below a touch something changes, too
    Bounds<D> bounds;                 // of the shape
    bool is_body = false;
    int probe = -1;      // whose it is, by number; -1: of the truths
    bool deep = false;   // whether something changes where it overlaps deeper than touch …
    bool sinks = false;  // … a one-way solid
    std::vector<double> tilts =
        {};  // angles from up of normals by which what it touches is told apart; radians
    std::optional<Turning<D>> inside = {};  // if it matters which way leads out of what it is inside of …
    bool inside_one_way = false;            // … of one-way solids alone
    std::optional<Upright<D>> upright = {};
    std::size_t ball = 0;  // of an upright one: the number of its ball
};

/// What tells apart by the angle of what it meets.
template <int D>
struct TurningFeeler {
    Turning<D> turning;
    Bounds<D> bounds;  // of the shape on all of its way
    int probe = -1;    // as a feeler's
};

/// A ball of the shapes that stand straight above one another: these touch a piece where it does.
template <int D>
struct FeelerBall {
    Vec<D> foot = Vec<D>::zero();
    double radius = 0.0;
};

/// What decides one facing's columns.
template <int D>
struct Feelers {
    Feelers(const Planned<D>& planned, std::size_t facing);

    /// What only the body and the claims feel with, or only the probes.
    [[nodiscard]] Feelers of_truths() const;
    [[nodiscard]] Feelers of_probes() const;
    /// What only the body feels with.
    [[nodiscard]] Feelers of_body() const;

    std::vector<Feeler<D>> feelers;  // the body first, and the truths' before those of probes
    std::vector<FeelerBall<D>> balls;
    std::vector<TurningFeeler<D>> turning;
    Bounds<D> reach;            // of all, along the axes of the facing: heading, up, right
    LayerSet layers = 0;        // of all
    std::vector<Vec<D>> lips;   // from the anchor: where what falls off there begins, or ends, to count
    std::vector<double> rises;  // heights above the anchor that the top of what is ahead is held against

  private:
    Feeler<D>& add(const RoundedHull<D>& shape, LayerSet of);
    std::size_t ball_of(const Upright<D>& upright);
    /// `angles` from up, `incidences` from the way back, of which 0 and half a turn tell nothing apart.
    void add_turning(const RoundedHull<D>& shape, LayerSet of, const Vec<D>& way, double far,
                     std::vector<double> angles, std::vector<double> incidences = {});
    void feel_body(const Planned<D>& planned, std::size_t facing);
    void feel_claim(const Planned<D>& planned, std::size_t facing, std::size_t signal);
    void feel_probe(const Level<D>& level, const MountedRig<D>& mounted, std::size_t number);
    void feel_inside(const RoundedHull<D>& shape, LayerSet sees, const std::vector<double>& angles);
    void feel_contacts(const Level<D>& level, const MountedRig<D>& mounted, std::size_t number);
    void feel_line(const MountedProbe<D>& probe, std::size_t line, const RoundedHull<D>& start,
                   const std::vector<double>& angles);
    void feel_way(const RoundedHull<D>& start, LayerSet sees, const Vec<D>& way);
    void grow_reach(const MountedRig<D>& mounted);
    void grow_reach();

    Mat<D> frame_;    // of the facing
    int probe_ = -1;  // whose feelers are being added
    double touch_ = 0.0;
    double footing_ = 0.0;  // the steepest, from up
    double ceiling_ = 0.0;  // the flattest normal of one, from up
};

extern template struct Feelers<2>;
extern template struct Feelers<3>;

}  // namespace hollow_probe
