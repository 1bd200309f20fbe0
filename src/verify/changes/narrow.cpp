#include "verify/changes/narrow.hpp"

#include <algorithm>

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {
namespace {

/// A shape with its core's extent across up less by `amount` on each side, around its own middle.
template <int D>
RoundedHull<D> narrowed(const RoundedHull<D>& shape, double amount) {
    const Bounds<D> bounds = shape.bounds();
    Vec<D> factors = Vec<D>::ones();
    for (int axis = 0; axis < D; ++axis) {
        if (axis == 1) continue;
        const double half = 0.5 * bounds.size()[axis];
        factors[axis] = std::max(half - amount, 1e-9 * half) / half;
    }
    return shape.stretched(factors);
}

/// What is made less: a radius, or a width on both sides.
template <int D>
struct Width {
    explicit Width(const Probe<D>& probe)
        : is_radius(shape_of(probe)->radius() > 0.0),
          now(is_radius ? shape_of(probe)->radius() : shape_of(probe)->bounds().size()[0]),
          sides(is_radius ? 1.0 : 2.0) {}

    bool is_radius;
    double now;
    double sides;
};

template <int D>
const Probe<D>& narrowed_probe(const Rig<D>& rig, int number) {
    return rig.probes[static_cast<std::size_t>(number)];
}

}  // namespace

template <int D>
bool Narrow::make(Probe<D>& changed, const Rig<D>&) const {
    RoundedHull<D>* const shape = shape_of(changed);
    if (shape == nullptr) return false;
    if (shape->radius() > 0.0) {
        const double radius = std::max(shape->radius() - amount, 0.0);
        (*from_of(changed))[1] -= shape->radius() - radius;
        *shape = shape->with_radius(radius);
    } else {
        *shape = narrowed<D>(*shape, amount);
    }
    return true;
}

/// Less than a tenth of it is no probe.
template <int D>
double Narrow::farthest(const Rig<D>& rig, double) const {
    return amount_for<D>(rig, 0.1 * file_value<D>(rig, 0.0));
}

template <int D>
double Narrow::file_value(const Rig<D>& rig, double of_amount) const {
    const Width<D> width(narrowed_probe<D>(rig, of_probe));
    return width.now - width.sides * of_amount;
}

template <int D>
double Narrow::amount_for(const Rig<D>& rig, double value) const {
    const Width<D> width(narrowed_probe<D>(rig, of_probe));
    return (width.now - value) / width.sides;
}

template <int D>
ChangeWords Narrow::words(const Rig<D>& rig) const {
    const Probe<D>& probe = narrowed_probe<D>(rig, of_probe);
    Probe<D> changed = probe;
    make<D>(changed, rig);
    const Width<D> before(probe);
    const Width<D> after(changed);
    return {probe.name, before.is_radius ? "shape radius" : "shape width", file_number(before.now),
            file_number(after.now), after.now};
}

template bool Narrow::make<2>(Probe<2>&, const Rig<2>&) const;
template bool Narrow::make<3>(Probe<3>&, const Rig<3>&) const;
template double Narrow::farthest<2>(const Rig<2>&, double) const;
template double Narrow::farthest<3>(const Rig<3>&, double) const;
template double Narrow::file_value<2>(const Rig<2>&, double) const;
template double Narrow::file_value<3>(const Rig<3>&, double) const;
template double Narrow::amount_for<2>(const Rig<2>&, double) const;
template double Narrow::amount_for<3>(const Rig<3>&, double) const;
template ChangeWords Narrow::words<2>(const Rig<2>&) const;
template ChangeWords Narrow::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
