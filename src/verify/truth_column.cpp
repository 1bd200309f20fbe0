#include "verify/truth_column.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/truth/ground.hpp"

namespace hollow_probe {

int samples_over(double length, double tall) {
    constexpr double longest_of_height = 0.5;  // of the body, between two samples
    constexpr double most = 4.0;
    return static_cast<int>(std::clamp(std::ceil(length / (longest_of_height * tall)), 1.0, most));
}

namespace {

/// In how many parts to look at heights over which the top of what is ahead is asked for: where that begins,
/// and what stands before it, changes between any two heights at which something is met. Odd, so that none is
/// in the middle.
int looks_at_top(double length, double touch) {
    constexpr double apart = 2.0;  // of touch
    constexpr int most = 9;
    return std::clamp(static_cast<int>(std::ceil(length / (apart * touch))), 1, most) | 1;
}

}  // namespace

bool contains(const std::vector<HeightSpan>& spans, double height) {
    const auto after = std::upper_bound(spans.begin(), spans.end(), height,
                                        [](double h, const HeightSpan& span) { return h < span.low; });
    return after != spans.begin() && height <= std::prev(after)->high;
}

std::vector<HeightSpan> free_of(const HeightSpan& span, const std::vector<HeightSpan>& taken) {
    std::vector<HeightSpan> free;
    double low = span.low;
    for (const HeightSpan& each : taken) {
        if (each.high <= low) continue;
        if (each.low >= span.high) break;
        if (each.low > low) free.push_back({low, each.low});
        low = each.high;
    }
    if (low < span.high) free.push_back({low, span.high});
    return free;
}

template <int D>
HeightSpan within_region(const Planned<D>& s, HeightSpan span, const Vec<D>& foot) {
    if (!s.region) return span;
    const Vec<D>& up = s.level.up();
    for (int axis = 0; axis < D; ++axis) {
        const double low = s.region->low[axis] - foot[axis];
        const double high = s.region->high[axis] - foot[axis];
        if (std::abs(up[axis]) < tolerance::direction) {
            if (low > 0.0 || high < 0.0) return {0.0, 0.0};
            continue;
        }
        span.low = std::max(span.low, std::min(low / up[axis], high / up[axis]));
        span.high = std::min(span.high, std::max(low / up[axis], high / up[axis]));
    }
    return span;
}

template <int D>
HeightSpan whole_of(const Planned<D>& s, std::size_t facing, const Feelers<D>& feelers) {
    const HeightSpan pieces = s.kept.store().heights_of(s.level_of(facing), s.facings[facing].seconds);
    const Intent& intent = s.rig.intent;
    const double spare = 2.0 * intent.touch + intent.tallest_step + intent.forgive.hold;
    return {pieces.low - feelers.reach.high[1] - spare, pieces.high - feelers.reach.low[1] + spare};
}

template <int D>
TruthJudge<D>::TruthJudge(const Planned<D>& planned, std::size_t facing, const Enclosed<D>& enclosed,
                          Feelers<D> feelers, Finds finds)
    : s_(planned), facing_(facing), enclosed_(enclosed), feelers_(std::move(feelers)), finds_(finds) {
    whole_ = whole_of<D>(planned, facing, feelers_);
    const HullView<D> body = planned.mounted[facing].body.view();
    const auto [low, high] = extent_along(body, planned.level.up());
    tall_ = high - low + 2.0 * body.radius;
    middle_ = 0.5 * (low + high);
    asks_ground_ = std::any_of(
        planned.rig.signals.begin(), planned.rig.signals.end(),
        [](const Signal& signal) { return signal.claims == Claim::ground || signal.claims == Claim::drop; });
}

template <int D>
TruthColumn TruthJudge<D>::column(const Place<D>& place) const {
    const Vec<D> foot = s_.grid.point(place, 0.0);
    if (finds_ == Finds::anew) return found(foot);
    auto& store = s_.kept.store();
    const Hash128 key = hash_of(place, s_.terms[facing_]);
    if (auto kept = store.find_column(key)) return *std::move(kept);
    TruthColumn column = found(foot);
    store.add_column(key, packed(column));
    return column;
}

template <int D>
std::vector<double> TruthJudge<D>::candidates(const TruthColumn& column, const Vec<D>& foot) const {
    if (column.has_candidates) return column.candidates;
    return heights_of_column<D>(s_, facing_, feelers_, foot, within_region<D>(s_, whole_, foot))
        .felt.candidates;
}

template <int D>
TruthState TruthJudge<D>::asked(const Vec<D>& anchor, Known<D>& known) const {
    const MountedRig<D>& mounted = s_.mounted[facing_];
    const Level<D>& level = s_.level_of(facing_);
    const PlacedBody<D> body = placed_body<D>(mounted, anchor);
    TruthState state;
    known.ground.reset();
    if (asks_ground_) known.ground = ground<D>(level, body, s_.rig.intent);
    state.clips = known.ground ? known.ground->clips : clip<D>(level, body, s_.rig.intent).on;
    if (state.clips) return state;
    const SignalTruths truths =
        truths_of_signals<D>(level, s_.rig, mounted, s_.situation(facing_), anchor, known);
    state.on = truths.on;
    state.hangs_on_way = truths.hangs_on_way;
    state.hangs_on_top = truths.hangs_on_top;
    return state;
}

template <int D>
TruthState TruthJudge<D>::at(const Vec<D>& anchor) const {
    Known<D> known;
    return asked(anchor, known);
}

template <int D>
TruthColumn TruthJudge<D>::found(const Vec<D>& foot) const {
    TruthColumn column;
    const HeightSpan all = within_region<D>(s_, whole_, foot);
    if (!(all.low < all.high)) return column;
    ColumnHeights heights = heights_of_column<D>(s_, facing_, feelers_, foot, all);
    column.taken = std::move(heights.clipped);
    for (HeightSpan span : enclosed_.inside(s_.level_of(facing_), s_.mounted[facing_].meets, foot)) {
        span.low -= middle_;
        span.high -= middle_;
        column.taken.push_back(span);
    }
    join(column.taken);
    column.busy = std::move(heights.felt.busy);
    column.rests = std::move(heights.rests);
    Known<D> known;
    auto ask = [&](double height) {
        ++column.asked;
        return asked(foot + height * s_.level.up(), known);
    };
    const double finest = s_.finest();
    StretchSearch<TruthState, decltype(ask)> search(finest, ask);
    double clear = all.high;  // a height at which nothing is met
    for (const HeightSpan& busy : column.busy) {
        for (const HeightSpan& free :
             free_of({std::max(busy.low, all.low), std::min(busy.high, all.high)}, column.taken)) {
            const auto found = search.run(
                edges_within(free, heights.felt.candidates, finest / 64.0),
                [&](double low, double high) { return samples_over(high - low, tall_); },
                [&](double low, double high, const TruthState& state) {
                    if (state.hangs_on_top) return looks_at_top(high - low, s_.rig.intent.touch);
                    return state.hangs_on_way ? 1 : 0;
                });
            column.stretches.insert(column.stretches.end(), found.begin(), found.end());
        }
        clear = std::max(clear, busy.high + tall_);
    }
    column.idle = ask(clear);
    column.has_candidates = s_.is_told_by_body();
    if (column.has_candidates) column.candidates = std::move(heights.felt.candidates);
    column.taken.shrink_to_fit();
    column.busy.shrink_to_fit();
    column.rests.shrink_to_fit();
    column.stretches.shrink_to_fit();
    return column;
}

template HeightSpan within_region<2>(const Planned<2>&, HeightSpan, const Vec<2>&);
template HeightSpan within_region<3>(const Planned<3>&, HeightSpan, const Vec<3>&);
template HeightSpan whole_of<2>(const Planned<2>&, std::size_t, const Feelers<2>&);
template HeightSpan whole_of<3>(const Planned<3>&, std::size_t, const Feelers<3>&);
template class TruthJudge<2>;
template class TruthJudge<3>;

}  // namespace hollow_probe
