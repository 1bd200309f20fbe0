#include "verify/changes/read_after.hpp"

namespace hollow_probe {

template <int D>
bool ReadAfter::make(Rig<D>& rig) const {
    rig.reads = Reads::after_move;
    for (Probe<D>& probe : rig.probes) {
        if (probe.reads) probe.reads = Reads::after_move;
    }
    return true;
}

template bool ReadAfter::make<2>(Rig<2>&) const;
template bool ReadAfter::make<3>(Rig<3>&) const;

}  // namespace hollow_probe
