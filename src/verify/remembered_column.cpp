#include "verify/remembered_column.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "verify/truth_column.hpp"
#include "verify/way_over.hpp"

namespace hollow_probe {
namespace {

template <class State>
const Stretch<State>& stretch_at(const std::vector<Stretch<State>>& stretches, double height) {
    const auto above =
        std::upper_bound(stretches.begin(), stretches.end(), height,
                         [](double h, const Stretch<State>& stretch) { return h < stretch.span.high; });
    return above == stretches.end() ? stretches.back() : *above;
}

}  // namespace

/// The ground of a way, as far as it is known from the lines.
template <int D>
class RememberedColumn<D>::Ground {
  public:
    explicit Ground(RememberedColumn& of) : of_(of) {}

    bool fits(std::size_t ticks_back, const Vec<D>& at) {
        return !contains(of_.line(ticks_back).clipped, of_.s_.level.up().dot(at));
    }
    double to_rest(std::size_t ticks_back, const Vec<D>& /*at*/, double height) {
        return of_.to_rest(ticks_back, height);
    }

  private:
    RememberedColumn& of_;
};

template <int D>
RememberedColumn<D>::RememberedColumn(const Planned<D>& planned, std::size_t facing,
                                      const Feelers<D>& of_probes, const Feelers<D>& of_body,
                                      const Tellers<D>& tellers, const HeightSpan& whole, const Vec<D>& foot,
                                      double tall)
    : s_(planned),
      facing_(facing),
      mounted_(planned.mounted[facing]),
      of_probes_(of_probes),
      of_body_(of_body),
      tellers_(tellers),
      whole_(whole),
      foot_(foot),
      tall_(tall),
      readings_(planned.rig.probes.size()) {
    const Vec<D>& up = planned.level.up();
    const Vec<D> stride = planned.tick_seconds * planned.facings[facing].velocity;
    const bool sideways = planned.facings[facing].arrival == Arrival::walked;
    if (sideways)
        aside_ = stride;
    else
        rise_ = up.dot(stride);
    lines_.resize(sideways ? planned.ticks_of_way + 1 : 1);
    for (std::size_t i = 0; i < mounted_.probes.size(); ++i) {
        const MountedProbe<D>& probe = mounted_.probes[i];
        about_.push_back(mounted_.bits_about(i));
        if (!probe.mounted) continue;
        // Where some probes wait for the move, the game has all of the contacts that it made by then.
        const bool is_touch = probe.kind == ProbeKind::contact;
        if (is_touch ? mounted_.reads_before_move() : probe.reads == Reads::before_move)
            before_move_ |= about_[i];
        if (probe.kind == ProbeKind::zone && probe.keeps != Keeps::set) zones_.push_back(i);
    }
}

template <int D>
const typename RememberedColumn<D>::Line& RememberedColumn<D>::line(std::size_t ticks_back) {
    const std::size_t number = lines_.size() == 1 ? 0 : ticks_back;
    auto& line = lines_[number];
    if (!line) line = std::make_unique<const Line>(found(number));
    return *line;
}

template <int D>
typename RememberedColumn<D>::Line RememberedColumn<D>::found(std::size_t ticks_back) {
    const Vec<D> foot = foot_of(ticks_back);
    Line line;
    ColumnHeights of_body = heights_of_column<D>(s_, facing_, of_body_, foot, whole_);
    line.clipped = std::move(of_body.clipped);
    std::vector<bool> wanted(mounted_.probes.size());
    bool touches = false;
    for (std::size_t i = 0; i < wanted.size(); ++i) {
        wanted[i] = matters(i, ticks_back);
        touches = touches || (wanted[i] && mounted_.probes[i].kind == ProbeKind::contact);
    }
    FeltHeights felt;
    if (touches) felt = std::move(of_body.felt);
    for (const FeltHeights& of_probe :
         heights_of_probes<D>(s_, facing_, of_probes_, foot, whole_, {}, wanted)) {
        felt.candidates.insert(felt.candidates.end(), of_probe.candidates.begin(), of_probe.candidates.end());
        felt.busy.insert(felt.busy.end(), of_probe.busy.begin(), of_probe.busy.end());
    }
    std::sort(felt.candidates.begin(), felt.candidates.end());
    join(felt.busy);
    std::optional<Passed> idle;
    auto asking = [&](double height) {
        const bool is_idle = !contains(felt.busy, height);
        if (is_idle && idle) return *idle;
        Passed passed = ask(foot + height * s_.level.up(), ticks_back);
        if (is_idle) idle = passed;
        return passed;
    };
    const double finest = s_.finest();
    StretchSearch<Passed, decltype(asking)> search(finest, asking, true);
    std::vector<Stretch<Passed>> stretches = search.run(
        edges_within(whole_, felt.candidates, finest / candidate_parts, felt.candidates.size() + 1),
        [&](double low, double high) {
            const bool is_idle = !contains(felt.busy, 0.5 * (low + high));
            return is_idle ? 1
                           : std::max(samples_over(high - low, tall_), tellers_.parts_of(high - low, tall_));
        },
        [&](double, double, const Passed&) { return tellers_.any() ? 1 : 0; });
    search.look_again(stretches);
    for (Stretch<Passed>& stretch : stretches) {
        if (!line.stretches.empty() && line.stretches.back().state.reads_as(stretch.state)) {
            line.stretches.back().span.high = stretch.span.high;
        } else {
            line.stretches.push_back(std::move(stretch));
        }
    }
    line.busy = std::move(felt.busy);
    return line;
}

template <int D>
std::vector<HeightSpan> RememberedColumn<D>::busy() {
    std::vector<HeightSpan> all;
    for (std::size_t back = 1; back < lines_.size() && back <= s_.ticks_of_signals; ++back) {
        const std::vector<HeightSpan>& there = line(back).busy;
        all.insert(all.end(), there.begin(), there.end());
    }
    join(all);
    return all;
}

template <int D>
bool RememberedColumn<D>::matters(std::size_t probe, std::size_t ticks_back) const {
    return mounted_.probes[probe].mounted && (ticks_back == 0 || ticks_back <= s_.ticks_read[probe]);
}

template <int D>
typename RememberedColumn<D>::Passed RememberedColumn<D>::ask(const Vec<D>& anchor, std::size_t ticks_back) {
    ++asked_;
    const Level<D>& level = s_.level_of(facing_);
    Tick<D> now{anchor, anchor, s_.tick_seconds, 0, {}};
    std::vector<MoveContact<D>> touched;
    bool all_matter = true;
    bool follows = false;
    for (std::size_t i = 0; i < readings_.size(); ++i) {
        if (!mounted_.probes[i].mounted) continue;
        const bool wanted = matters(i, ticks_back);
        all_matter = all_matter && wanted;
        follows = follows || !s_.rig.probes[i].follows.empty();
        if (wanted && touched.empty() && mounted_.probes[i].kind == ProbeKind::contact)
            touched = contacts_at<D>(s_, mounted_, facing_, anchor);
    }
    now.contacts = touched;
    RigMemory memory = mounted_.memory();
    if (all_matter || follows) {
        mounted_.tick(level, now, memory, readings_);
    } else {
        for (std::size_t i = 0; i < readings_.size(); ++i) {
            if (!matters(i, ticks_back)) continue;
            const MountedProbe<D>& probe = mounted_.probes[i];
            ZoneMemory* const zone = probe.kind == ProbeKind::zone ? &memory.zones[probe.zone] : nullptr;
            readings_[i] =
                probe.read(LevelBackEnd<D>(level), level.up(), mounted_.body, anchor, touched, zone);
        }
    }
    Passed passed;
    for (std::size_t i = 0; i < readings_.size(); ++i) {
        if (matters(i, ticks_back)) passed.on |= mounted_.bits_of(i, readings_[i]);
    }
    for (const std::size_t i : zones_) {
        const ZoneMemory& zone = memory.zones[mounted_.probes[i].zone];
        const std::size_t count = matters(i, ticks_back) ? zone.count : 0;
        passed.inside.push_back(static_cast<std::uint32_t>(count));
        passed.inside.insert(passed.inside.end(), zone.inside.begin(),
                             zone.inside.begin() + static_cast<std::ptrdiff_t>(count));
    }
    if (all_matter && tellers_.any()) passed.met = tellers_.met(readings_);
    return passed;
}

template <int D>
double RememberedColumn<D>::to_rest(std::size_t ticks_back, double height) {
    const double rounding = 1e-3 * s_.finest();
    const auto [found, is_new] = to_rests_.try_emplace({ticks_back, std::llround(height / rounding)}, 0.0);
    if (!is_new) return found->second;
    const Intent& intent = s_.rig.intent;
    find_rests<D>(s_.level_of(facing_), {mounted_.body.view(), foot_of(ticks_back), mounted_.meets}, intent,
                  rests_, nullptr, Held::from_below,
                  {height - intent.tallest_step, height + intent.tallest_step});
    found->second = to_nearest_rest(rests_, height, intent.tallest_step);
    return found->second;
}

template <int D>
std::vector<double> RememberedColumn<D>::candidates(const HeightSpan& within,
                                                    const std::vector<double>& rests) {
    std::vector<double> all;
    const auto put = [&](double height) {
        if (height > within.low && height < within.high) all.push_back(height);
    };
    const auto put_ends = [&](std::size_t ticks_back, const auto& put_end) {
        const Line& at = line(ticks_back);
        ReadingSet wanted;
        for (std::size_t i = 0; i < mounted_.probes.size(); ++i) {
            if (matters(i, ticks_back)) wanted |= about_[i];
        }
        for (std::size_t i = 0; i + 1 < at.stretches.size(); ++i) {
            const Passed& below = at.stretches[i].state;
            const Passed& above = at.stretches[i + 1].state;
            if (((below.on ^ above.on) & wanted).any() || below.inside != above.inside)
                put_end(at.stretches[i].span.high);
        }
        for (const HeightSpan& span : at.clipped) {
            put_end(span.low);
            put_end(span.high);
        }
    };
    const double touch = s_.rig.intent.touch;
    for (const double rest : rests) {
        for (const double by : {-2.0, -1.0, 0.0, 1.0}) put(rest + by * touch);
    }
    const std::size_t ticks = s_.ticks_of_way;
    if (lines_.size() == 1) {
        for (std::size_t back = 0; back <= ticks; ++back) {
            const double lower = static_cast<double>(back) * rise_;
            put_ends(back, [&](double end) { put(end + lower); });
            if (rise_ == 0.0) break;
            // How long ago it took off.
            for (const double rest : rests) put(rest + lower);
        }
        return all;
    }
    for (std::size_t back = 0; back <= ticks; ++back) put_ends(back, put);
    for (const double rest : rests) {
        if (rest < within.low - touch || rest > within.high + touch) continue;
        double walked_on = rest;
        for (std::size_t back = 1; back <= ticks; ++back) {
            const double by = to_rest(back, walked_on);
            if (std::isfinite(by)) walked_on += by;
            put_ends(back, [&](double end) {
                if (std::abs(end - walked_on) <= 2.0 * touch) put(end - walked_on + rest);
            });
        }
    }
    return all;
}

template <int D>
void RememberedColumn<D>::take_zones(const Passed& there, bool before_move, bool jumps, RigMemory& memory,
                                     ReadingSet& on) const {
    auto list = there.inside.begin();
    for (const std::size_t i : zones_) {
        const MountedProbe<D>& probe = mounted_.probes[i];
        const std::span<const std::uint32_t> inside(&*list + 1, *list);
        list += 1 + static_cast<std::ptrdiff_t>(*list);
        if ((probe.reads == Reads::before_move) != before_move) continue;
        const bool is_on = memory.zones[probe.zone].take(inside, probe.keeps, jumps && probe.used_by != 0);
        if (!is_on)
            on &= ~about_[i];
        else
            on.put(i);
    }
}

template <int D>
SignalSet RememberedColumn<D>::at(double height, double above_rest) {
    const Vec<D>& up = s_.level.up();
    const Way<D> way = way_over<D>(s_, facing_, foot_ + height * up, above_rest, Ground(*this));
    RigMemory memory = mounted_.memory();
    const Passed* before = nullptr;
    SignalSet signals;
    for (std::size_t i = 0; i < way.anchors.size(); ++i) {
        const Line& there = line(way.anchors.size() - 1 - i);
        const Passed& now = stretch_at(there.stretches, up.dot(way.anchors[i])).state;
        if (before == nullptr) before = &now;
        ReadingSet on = (now.on & ~before_move_) | (before->on & before_move_);
        if (!zones_.empty()) {
            const bool jumps = i == way.jump;
            take_zones(now, false, jumps, memory, on);
            take_zones(*before, true, jumps, memory, on);
        }
        const std::uint64_t events = i == way.jump ? ~std::uint64_t{0} : 0;
        signals =
            mounted_.remember(on, {way.anchors[i], way.anchors[i], s_.tick_seconds, events, {}}, memory);
        before = &now;
    }
    return signals;
}

template class RememberedColumn<2>;
template class RememberedColumn<3>;

}  // namespace hollow_probe
