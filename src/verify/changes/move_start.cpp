#include "verify/changes/move_start.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

template <int D>
ChangeWords MoveStart<D>::words(const Rig<D>& rig) const {
    const Probe<D>& probe = rig.probes[static_cast<std::size_t>(of_probe)];
    return {probe.name, "from", vector_text<D>(*from_of(probe)), vector_text<D>(*from_of(probe) + by)};
}

template struct MoveStart<2>;
template struct MoveStart<3>;

}  // namespace hollow_probe
