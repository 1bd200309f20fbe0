#include "verify/changes/move_end.hpp"

#include <algorithm>

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

/// Along the axis nearest to `along`.
template <int D>
bool MoveEnd::make(Probe<D>& changed, const Rig<D>&) const {
    RoundedHull<D>* const shape = shape_of(changed);
    if (shape == nullptr) return false;
    const Vec<D>& along = *along_of(changed);
    const int axis = along.abs().largest_axis();
    const double sign = along[axis] < 0.0 ? -1.0 : 1.0;
    (*from_of(changed))[axis] += 0.5 * sign * amount;
    if (shape->radius() > 0.0) {
        *shape = shape->with_radius(std::max(shape->radius() + 0.5 * amount, 1e-9));
        return true;
    }
    const double length = shape->bounds().size()[axis];
    Vec<D> factors = Vec<D>::ones();
    factors[axis] = std::max(length + amount, 1e-9 * length) / length;
    *shape = shape->stretched(factors);
    return true;
}

template <int D>
double MoveEnd::farthest(const Rig<D>&, double body_size) const {
    return amount + (amount > 0.0 ? body_size : -body_size);
}

template <int D>
ChangeWords MoveEnd::words(const Rig<D>& rig) const {
    const Probe<D>& probe = rig.probes[static_cast<std::size_t>(of_probe)];
    Probe<D> changed = probe;
    make<D>(changed, rig);
    const auto text = [](const Probe<D>& p) {
        return vector_text<D>(*from_of(p)) + ", " + shape_text<D>(*shape_of(p));
    };
    return {probe.name, "from, shape", text(probe), text(changed)};
}

template bool MoveEnd::make<2>(Probe<2>&, const Rig<2>&) const;
template bool MoveEnd::make<3>(Probe<3>&, const Rig<3>&) const;
template double MoveEnd::farthest<2>(const Rig<2>&, double) const;
template double MoveEnd::farthest<3>(const Rig<3>&, double) const;
template ChangeWords MoveEnd::words<2>(const Rig<2>&) const;
template ChangeWords MoveEnd::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
