#include "verify/changes/start_back.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

template <int D>
bool StartBack::make(Probe<D>& changed, const Rig<D>&) const {
    LineProbe<D>& line = changed.line();
    line.from -= amount * line.along;
    line.reach += amount;
    return true;
}

template <int D>
double StartBack::farthest(const Rig<D>&, double body_size) const {
    return amount + body_size;
}

template <int D>
double StartBack::file_value(const Rig<D>& rig, double of_amount) const {
    return rig.probes[static_cast<std::size_t>(of_probe)].line().reach + of_amount;
}

template <int D>
double StartBack::amount_for(const Rig<D>& rig, double value) const {
    return value - rig.probes[static_cast<std::size_t>(of_probe)].line().reach;
}

template <int D>
ChangeWords StartBack::words(const Rig<D>& rig) const {
    const Probe<D>& probe = rig.probes[static_cast<std::size_t>(of_probe)];
    Probe<D> changed = probe;
    make<D>(changed, rig);
    const auto text = [](const Probe<D>& p) {
        return vector_text<D>(p.line().from) + ", " + file_number(p.line().reach);
    };
    return {probe.name, "from, reach", text(probe), text(changed)};
}

template bool StartBack::make<2>(Probe<2>&, const Rig<2>&) const;
template bool StartBack::make<3>(Probe<3>&, const Rig<3>&) const;
template double StartBack::farthest<2>(const Rig<2>&, double) const;
template double StartBack::farthest<3>(const Rig<3>&, double) const;
template double StartBack::file_value<2>(const Rig<2>&, double) const;
template double StartBack::file_value<3>(const Rig<3>&, double) const;
template double StartBack::amount_for<2>(const Rig<2>&, double) const;
template double StartBack::amount_for<3>(const Rig<3>&, double) const;
template ChangeWords StartBack::words<2>(const Rig<2>&) const;
template ChangeWords StartBack::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
