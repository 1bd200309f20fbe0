#include "motion/promises.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {

template <int D>
Promises<D>::Promises(const Drill<D>& drill, const Level<D>& level, const Rig<D>& rig)
    : drill_(drill), body_size_(rig.body.stances.front().shape.bounds().size().norm()) {
    for (const Expectation& expectation : drill.expectations) {
        Watched& watched = watched_.emplace_back();
        if (!expectation.area.empty()) {
            watched.area = level.find_area(expectation.area);
            if (watched.area == nullptr)
                throw InvalidInput("expect: the level has no area '" + expectation.area + "'");
            continue;
        }
        watched.entry = find_figure(expectation.figure);
        const bool known = expectation.signal.empty() ||
                           std::any_of(rig.signals.begin(), rig.signals.end(), [&](const Signal& signal) {
                               return signal.name == expectation.signal;
                           });
        if (!known) throw InvalidInput("expect: the rig has no signal '" + expectation.signal + "'");
    }
}

template <int D>
void Promises<D>::note(std::size_t number, double got, const TickRecord<D>& when) {
    broken_.push_back({number, got, when.seconds, {when.anchor.data(), when.anchor.data() + D}});
}

template <int D>
double Promises<D>::away_from(const Area<D>& area, const TickRecord<D>& tick) {
    return (tick.anchor - tick.anchor.max(area.box.low).min(area.box.high)).norm();
}

template <int D>
void Promises<D>::watch_area(std::size_t number, const TickRecord<D>& tick) {
    Watched& watched = watched_[number];
    const double away = away_from(*watched.area, tick);
    if (away < watched.nearest) {
        watched.nearest = away;
        watched.nearest_tick = tick;
    }
    if (away > 0.0) return;
    watched.settled = true;
    if (drill_.expectations[number].kind == Expectation::Kind::never_reaches) note(number, 0.0, tick);
}

template <int D>
void Promises<D>::watch(const TickRecord<D>& tick, const DrillFigures& so_far) {
    for (std::size_t i = 0; i < watched_.size(); ++i) {
        const Expectation& expectation = drill_.expectations[i];
        if (watched_[i].settled) continue;
        if (watched_[i].area != nullptr) {
            watch_area(i, tick);
            continue;
        }
        if (expectation.kind != Expectation::Kind::most || !watched_[i].entry->only_grows) continue;
        const double now = value_of(*watched_[i].entry, so_far, expectation.signal);
        if (now <= expectation.limit) continue;
        watched_[i].settled = true;
        note(i, now, tick);
    }
}

template <int D>
std::vector<Broken> Promises<D>::conclude(const TickRecord<D>& last, const DrillFigures& figures) {
    for (std::size_t i = 0; i < watched_.size(); ++i) {
        const Watched& watched = watched_[i];
        const Expectation& expectation = drill_.expectations[i];
        if (watched.area != nullptr) {
            if (expectation.kind == Expectation::Kind::reaches && !watched.settled)
                note(i, watched.nearest, watched.nearest_tick);
            continue;
        }
        const double now = value_of(*watched.entry, figures, expectation.signal);
        if (watched.settled) {
            // How far over the limit it has got since.
            for (Broken& broken : broken_) {
                if (broken.expectation == i) broken.got = now;
            }
            continue;
        }
        const bool at_most = expectation.kind == Expectation::Kind::most;
        if (!(at_most ? now <= expectation.limit : now >= expectation.limit)) note(i, now, last);
    }
    std::sort(broken_.begin(), broken_.end(),
              [](const Broken& a, const Broken& b) { return a.expectation < b.expectation; });
    return broken_;
}

template <int D>
double Promises<D>::nearness_of_figure(std::size_t number, const DrillFigures& figures) const {
    const Expectation& expectation = drill_.expectations[number];
    const double now = value_of(*watched_[number].entry, figures, expectation.signal);
    // One too many breaks it.
    if (expectation.kind == Expectation::Kind::most && watched_[number].entry->counts)
        return now / (std::max(std::floor(expectation.limit), 0.0) + 1.0);
    const double over =
        expectation.kind == Expectation::Kind::most ? now - expectation.limit : expectation.limit - now;
    const double scale = std::max(std::abs(expectation.limit), 1e-3);
    return std::max(0.0, 1.0 + over / scale);
}

template <int D>
std::vector<double> Promises<D>::nearness(const DrillFigures& figures) const {
    std::vector<double> result;
    for (std::size_t i = 0; i < watched_.size(); ++i) {
        const Watched& watched = watched_[i];
        if (watched.area == nullptr) {
            result.push_back(nearness_of_figure(i, figures));
            continue;
        }
        const double near = body_size_ / (body_size_ + watched.nearest);
        const bool never = drill_.expectations[i].kind == Expectation::Kind::never_reaches;
        result.push_back(never ? near : watched.settled ? 0.0 : 2.0 - near);
    }
    return result;
}

template <int D>
std::vector<double> Promises<D>::nearness_now(const TickRecord<D>& tick, const DrillFigures& figures) const {
    std::vector<double> result;
    for (std::size_t i = 0; i < watched_.size(); ++i) {
        const Area<D>* const area = watched_[i].area;
        result.push_back(area == nullptr ? nearness_of_figure(i, figures)
                                         : body_size_ / (body_size_ + away_from(*area, tick)));
    }
    return result;
}

template <int D>
std::vector<Broken> Promises<D>::broken() const {
    std::vector<Broken> all = broken_;
    std::sort(all.begin(), all.end(),
              [](const Broken& a, const Broken& b) { return a.expectation < b.expectation; });
    return all;
}

template class Promises<2>;
template class Promises<3>;

}  // namespace hollow_probe
