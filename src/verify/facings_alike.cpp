#include "verify/facings_alike.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// Places are the same within rounding of what turned them.
constexpr double rounding = 1e-13;

template <int D>
bool same_place(const Vec<D>& a, const Vec<D>& b) {
    return (a - b).abs().largest() <= rounding * (1.0 + a.abs().largest());
}

/// Whether two lists have the same members, in any order.
template <class Member, class Same>
bool same_members(const std::vector<Member>& a, const std::vector<Member>& b, Same is_same) {
    return std::is_permutation(a.begin(), a.end(), b.begin(), b.end(), is_same);
}

template <int D>
bool same_line(const ProbeLine<D>& a, const ProbeLine<D>& b) {
    return same_place<D>(a.from, b.from) && same_place<D>(a.along, b.along);
}

template <int D>
bool same_lines(const MountedProbe<D>& a, const MountedProbe<D>& b) {
    return same_members(a.lines, b.lines, same_line<D>);
}

}  // namespace

template <int D>
bool reads_the_same(const MountedProbe<D>& a, const MountedProbe<D>& b) {
    if (a.mounted != b.mounted || a.aimed != b.aimed) return false;
    if (!a.mounted) return true;
    if (a.kind == ProbeKind::contact) return false;  // what is touched beside is felt along the heading
    return a.sees == b.sees && a.reach == b.reach && a.shape.radius() == b.shape.radius() &&
           same_members(a.shape.points(), b.shape.points(), same_place<D>) && same_lines<D>(a, b) &&
           std::equal(a.followed.begin(), a.followed.end(), b.followed.begin(), b.followed.end(),
                      reads_the_same<D>);
}

namespace {

template <int D>
bool same_but_for_heading(const Planned<D>& s, std::size_t a, std::size_t b) {
    const Facing<D>& one = s.facings[a];
    const Facing<D>& other = s.facings[b];
    if (one.stance != other.stance || one.arrival != other.arrival || one.velocity != other.velocity ||
        one.drive != other.drive || one.grounded != other.grounded || one.moment != other.moment ||
        s.terms[a] != s.terms[b])
        return false;
    const auto& probes = s.mounted[a].probes;
    return std::equal(probes.begin(), probes.end(), s.mounted[b].probes.begin(), reads_the_same<D>);
}

}  // namespace

template <int D>
std::vector<std::size_t> first_alike(const Planned<D>& planned) {
    std::vector<std::size_t> first;
    for (std::size_t facing = 0; facing < planned.facings.size(); ++facing) {
        std::size_t other = 0;
        while (other < facing && (first[other] != other || !same_but_for_heading<D>(planned, other, facing)))
            ++other;
        first.push_back(other);
    }
    return first;
}

namespace {

/// Not only the same lines and points, but the same in the same order.
template <int D>
bool lies_the_same(const MountedProbe<D>& a, const MountedProbe<D>& b) {
    return !a.mounted ||
           (std::equal(a.lines.begin(), a.lines.end(), b.lines.begin(), b.lines.end(), same_line<D>) &&
            std::equal(a.shape.points().begin(), a.shape.points().end(), b.shape.points().begin(),
                       b.shape.points().end(), same_place<D>));
}

}  // namespace

template <int D>
std::vector<std::size_t> first_explaining(const Planned<D>& planned) {
    std::vector<std::size_t> result = planned.first;
    for (std::size_t facing = 0; facing < result.size(); ++facing) {
        const auto& own = planned.mounted[facing].probes;
        const auto& first = planned.mounted[result[facing]].probes;
        if (planned.ticks_before > 0 || !std::equal(own.begin(), own.end(), first.begin(), lies_the_same<D>))
            result[facing] = facing;
    }
    return result;
}

template <int D>
Mat<D> turn_between(const Planned<D>& planned, std::size_t from, std::size_t to) {
    const Vec<D>& up = planned.level.up();
    return body_frame<D>(planned.facings[to].heading, up).transposed() *
           body_frame<D>(planned.facings[from].heading, up);
}

template bool reads_the_same<2>(const MountedProbe<2>&, const MountedProbe<2>&);
template bool reads_the_same<3>(const MountedProbe<3>&, const MountedProbe<3>&);
template std::vector<std::size_t> first_alike<2>(const Planned<2>&);
template std::vector<std::size_t> first_alike<3>(const Planned<3>&);
template std::vector<std::size_t> first_explaining<2>(const Planned<2>&);
template std::vector<std::size_t> first_explaining<3>(const Planned<3>&);
template Mat<2> turn_between<2>(const Planned<2>&, std::size_t, std::size_t);
template Mat<3> turn_between<3>(const Planned<3>&, std::size_t, std::size_t);

}  // namespace hollow_probe
