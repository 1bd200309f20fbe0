#include "verify/best_amount.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "verify/cause_key.hpp"
#include "verify/roundest.hpp"

namespace hollow_probe {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();
/// So many of the amounts demanded are tried: all, or evenly many.
constexpr std::size_t most_levels = 8;
/// Ends of an interval are located within this part of the change.
constexpr double end_parts = 1e-4;
/// An interval narrower than this part of the change is but one number.
constexpr double least_width = 2e-3;
/// A proposed number keeps this part of the interval from either end.
constexpr double well_inside = 0.1;

template <int D>
double amount_in(const ProvenCause<D>& cause) {
    return amount_of<D>(cause.change).value_or(0.0);
}

/// The demanded number with six decimals, rounded away from what it was.
template <int D>
double bolder_number(const Planned<D>& s, const ProvenCause<D>& cause, double unchanged) {
    constexpr double scale = 1e6;
    const double value = *file_value<D>(cause.change, s.rig, amount_in(cause)) * scale;
    const bool up = value > *file_value<D>(cause.change, s.rig, unchanged) * scale;
    return (up ? std::ceil(value - 1e-3) : std::floor(value + 1e-3)) / scale;
}

/// A search over one change's numbers.
template <int D>
class Tuning {
  public:
    using About = typename Trials<D>::About;

    Tuning(const Planned<D>& s, const Trials<D>& trials, double unchanged)
        : s_(s), trials_(trials), unchanged_(unchanged) {}

    ProvenCause<D> with(ProvenCause<D> cause, double amount) const {
        set_amount<D>(cause, amount, unchanged_);
        return cause;
    }

    /// The boldest amount, from the demanded one on, up to which nothing is lost.
    double last_as_good(const ProvenCause<D>& cause, const About& as_demanded) const {
        const double demanded = amount_in(cause);
        const double way = farthest_of<D>(cause.change, s_.rig, s_.body_size) - demanded;
        if (way == 0.0) return demanded;
        Search search{cause, demanded, way, trials_.gain(as_demanded)};
        const double first = std::abs(0.05 * (demanded - unchanged_) / way);
        End good = {0.0, as_demanded};
        for (double part = std::clamp(first, 1e-3, 0.25);; part = std::min(2.0 * part, 1.0)) {
            End next = {part, look_at(search, part)};
            if (!is_as_good(search, next.about)) return demanded + border(search, good, next) * way;
            if (part == 1.0) return demanded + way;
            good = std::move(next);
        }
    }

    /// The roundest number well inside: no farther in than is needed to be sure.
    Tuned<D> rounded(const ProvenCause<D>& cause, double end) const {
        Tuned<D> result{cause, {none, none}};
        const auto low = file_value<D>(cause.change, s_.rig, amount_in(cause));
        const auto high = file_value<D>(cause.change, s_.rig, end);
        if (!low || !high) return result;
        result.between = {std::min(*low, *high), std::max(*low, *high)};
        const double change = std::abs(*low - *file_value<D>(cause.change, s_.rig, unchanged_));
        const double width = std::min(std::abs(*high - *low), std::max(0.5 * change, 0.02 * s_.body_size));
        const double sign = *high > *low ? 1.0 : -1.0;
        // What the intent says is the number meant, whatever this level would bear.
        const bool by_intent = cause.kind == CauseKind::too_steep;
        const double number = width > least_width * change && !by_intent
                                  ? roundest_between(*low + sign * well_inside * width,
                                                     *low + sign * (1.0 - well_inside) * width)
                                  : bolder_number<D>(s_, cause, unchanged_);
        result.cause = with(cause, amount_for<D>(cause.change, s_.rig, number));
        result.cause.by = cause.by;  // how far off it is, not how far it goes
        return result;
    }

  private:
    struct Search {
        const ProvenCause<D>& cause;
        double demanded = 0.0;
        double way = 0.0;    // to the farthest amount
        double worth = 0.0;  // of what is demanded
    };
    struct End {
        double part = 0.0;  // of the way
        About about;
    };

    About look_at(const Search& search, double part) const {
        return trials_.about(with(search.cause, search.demanded + part * search.way));
    }
    bool is_as_good(const Search& search, const About& about) const {
        return trials_.gain(about) >= search.worth - 1e-9 * std::abs(search.worth);
    }

    /// The last part of the way that is as good, between one that is and one that is not. Where both do the
    /// same to an interval, so they are taken to do in between; but not all changes do more the bolder they
    /// are, so what is found is looked at everywhere on both sides, and sought that way if it is not so.
    double border(const Search& search, const End& good, const End& bad) const {
        const auto [last, next] =
            halved(search, good, bad, [&](double part, const End& low, const End& high) {
                return trials_.about_between(with(search.cause, search.demanded + part * search.way),
                                             low.about, high.about);
            });
        const bool is_so = (last == good.part || is_as_good(search, look_at(search, last))) &&
                           (next == bad.part || !is_as_good(search, look_at(search, next)));
        if (is_so) return last;
        return halved(search, good, bad,
                      [&](double part, const End&, const End&) { return look_at(search, part); })
            .first;
    }

    template <class Look>
    std::pair<double, double> halved(const Search& search, End good, End bad, Look look) const {
        const double precision =
            std::max(end_parts * std::abs((search.demanded - unchanged_) / search.way), 1e-9);
        while (bad.part - good.part > precision) {
            const double middle = 0.5 * (good.part + bad.part);
            About about = look(middle, good, bad);
            const bool is_good = is_as_good(search, about);
            (is_good ? good : bad) = End{middle, std::move(about)};
        }
        return {good.part, bad.part};
    }

    const Planned<D>& s_;
    const Trials<D>& trials_;
    double unchanged_;
};

/// A start moved on to the next four decimals.
template <int D>
void move_outwards(const Rig<D>& rig, MoveStart<D>& move) {
    constexpr double scale = 1e4;
    const Vec<D>& from = *from_of(rig.probes[static_cast<std::size_t>(move.of_probe)]);
    for (int axis = 0; axis < D; ++axis) {
        if (std::abs(move.by[axis]) <= 1e-12) continue;
        const double to = (from[axis] + move.by[axis]) * scale;
        move.by[axis] =
            (move.by[axis] > 0.0 ? std::ceil(to - 1e-3) : std::floor(to + 1e-3)) / scale - from[axis];
    }
    move.amount = move.by.norm();
}

/// A start moved to so few decimals as cost nothing.
template <int D>
void round_place(const Planned<D>& s, const Trials<D>& trials, ProvenCause<D>& cause) {
    auto& move = std::get<MoveStart<D>>(cause.change);
    const Vec<D>& from = *from_of(s.rig.probes[static_cast<std::size_t>(move.of_probe)]);
    const double worth = trials.gain(trials.about(cause));
    for (const double scale : {1e1, 1e2, 1e3, 1e4}) {
        MoveStart<D> rounder = move;
        const Vec<D> to = from + move.by;
        for (int axis = 0; axis < D; ++axis) {
            // What it does not move along stays as it was written.
            if (std::abs(move.by[axis]) > 1e-12)
                rounder.by[axis] = std::round(to[axis] * scale) / scale - from[axis];
        }
        if (rounder.by.is_zero(1e-12)) continue;
        rounder.amount = rounder.by.norm();
        ProvenCause<D> tried = cause;
        tried.change = rounder;
        if (trials.gain(trials.about(tried)) >= worth - 1e-9 * std::abs(worth)) {
            move = rounder;
            return;
        }
    }
    move_outwards<D>(s.rig, move);
}

}  // namespace

template <int D>
Tuned<D> as_demanded(const Planned<D>& s, const ProvenCause<D>& demanded) {
    Tuned<D> result{demanded, {none, none}};
    const auto round_one = [&](ProvenCause<D>& cause) {
        if (auto* const move = std::get_if<MoveStart<D>>(&cause.change)) {
            move_outwards<D>(s.rig, *move);
            return;
        }
        const auto unchanged = unchanged_of<D>(cause.change, s.rig);
        if (!unchanged) return;
        const double number = bolder_number<D>(s, cause, *unchanged);
        const double by = cause.by;
        set_amount<D>(cause, amount_for<D>(cause.change, s.rig, number), *unchanged);
        cause.by = by;
    };
    round_one(result.cause);
    for (ProvenCause<D>& further : result.cause.with) round_one(further);
    return result;
}

template <int D>
Tuned<D> best_amount(const Planned<D>& s, const Trials<D>& trials, std::vector<ProvenCause<D>> demanded) {
    // The most demanding comes first.
    std::stable_sort(demanded.begin(), demanded.end(),
                     [](const ProvenCause<D>& a, const ProvenCause<D>& b) { return a.by > b.by; });
    const auto unchanged = unchanged_of<D>(demanded.front().change, s.rig);
    if (!unchanged || !demanded.front().with.empty()) {
        ProvenCause<D> all = demanded.front();
        for (const ProvenCause<D>& other : demanded) take_more_demanding(all, other);
        return as_demanded<D>(s, all);
    }
    const auto alike = [](const ProvenCause<D>& a, const ProvenCause<D>& b) {
        const auto* const one = std::get_if<MoveStart<D>>(&a.change);
        const auto* const other = std::get_if<MoveStart<D>>(&b.change);
        return std::abs(a.by - b.by) <= 1e-6 * a.by &&
               (one == nullptr || (one->by - other->by).norm() <= 1e-6 * one->by.norm());
    };
    demanded.erase(std::unique(demanded.begin(), demanded.end(), alike), demanded.end());
    const std::size_t step = (demanded.size() + most_levels - 1) / most_levels;
    const Tuning<D> tuning(s, trials, *unchanged);
    const ProvenCause<D>* best = &demanded.front();
    auto about_best = trials.about(*best);
    for (std::size_t i = step; i < demanded.size(); i += step) {
        auto about = trials.about(demanded[i]);
        if (trials.gain(about) <= trials.gain(about_best)) continue;
        best = &demanded[i];
        about_best = std::move(about);
    }
    if (std::holds_alternative<MoveStart<D>>(best->change)) {
        Tuned<D> result{*best, {none, none}};
        round_place<D>(s, trials, result.cause);
        return result;
    }
    return tuning.rounded(*best, tuning.last_as_good(*best, about_best));
}

template Tuned<2> as_demanded<2>(const Planned<2>&, const ProvenCause<2>&);
template Tuned<3> as_demanded<3>(const Planned<3>&, const ProvenCause<3>&);
template Tuned<2> best_amount<2>(const Planned<2>&, const Trials<2>&, std::vector<ProvenCause<2>>);
template Tuned<3> best_amount<3>(const Planned<3>&, const Trials<3>&, std::vector<ProvenCause<3>>);

}  // namespace hollow_probe
