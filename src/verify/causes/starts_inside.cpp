// The probe starts in a solid, and passing it over, counting it or starting outside cures it.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void take_inside_otherwise(CauseSearch<D>& search, double rank) {
    constexpr double next = 0.01;  // the simplest first
    for (const IfInside other : {IfInside::report, IfInside::ignore, IfInside::against}) {
        if (other == search.probe().line().if_inside) continue;
        search.offer(CauseKind::starts_inside,
                     SetChoice{search.of_probe("if_inside"), static_cast<std::int64_t>(other)}, rank);
        rank += next;
    }
}

/// Whether it starts in something, whatever it is told to make of that.
template <int D>
bool starts_in_solid(const CauseSearch<D>& search) {
    MountedProbe<D> reporting = search.mounted_probe();
    reporting.if_inside = IfInside::report;
    reporting.take = Take::first;
    const Reading<D> inside = reporting.read(search.level(), search.mounted().body, search.pose().anchor);
    return inside.met && inside.hit.began_inside;
}

template <int D>
void inside(CauseSearch<D>& search) {
    if (!search.is_line()) return;
    if (search.too_little() && starts_in_solid(search)) {
        take_inside_otherwise(search, rank::inside);
        search.offer_least(search.stance().bounds().size()[1], [&](double amount) {
            return ProvenCause<D>{CauseKind::starts_inside, StartBack{search.probe_number(), amount}, amount,
                                  rank::start_back};
        });
    }
    if (search.too_much() && search.reading().hit.began_inside)
        take_inside_otherwise(search, rank::inside_falsely);
}

std::string why_starts_inside(const CauseTold& t) {
    return t.who + " starts inside a solid" + (t.cause.by > 0.0 ? ", " + t.by + " too far forward" : "");
}

}  // namespace

template <int D>
CauseRule<D> starts_inside() {
    return {CauseKind::starts_inside, why_starts_inside, inside<D>};
}

template CauseRule<2> starts_inside<2>();
template CauseRule<3> starts_inside<3>();

}  // namespace hollow_probe
