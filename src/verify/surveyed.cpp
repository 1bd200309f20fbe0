#include "verify/surveyed.hpp"

#include <algorithm>

#include "hollow_probe/rig/fields.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "verify/feelers.hpp"
#include "verify/signal_truths.hpp"
#include "verify/survey_plan.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {
namespace {

template <int D>
std::vector<const Level<D>*> pointers(const Level<D>& level, const std::deque<Level<D>>& moments) {
    std::vector<const Level<D>*> levels = {&level};
    for (const Level<D>& moment : moments) levels.push_back(&moment);
    return levels;
}

template <int D>
double chosen_spacing(const Surveyed<D>& s, const SurveyOptions& options) {
    if (!std::isfinite(options.spacing) || options.spacing < 0.0)
        throw InvalidInput("spacing must be more than 0");
    return options.spacing > 0.0 ? options.spacing : 0.25 * s.narrowest_width;
}

/// Everything besides region and anchor that the truths asked at a facing depend on.
template <int D>
std::vector<double> terms_of(const Surveyed<D>& s, std::size_t facing) {
    const MountedRig<D>& mounted = s.mounted[facing];
    const Situation<D> situation = s.situation(facing);
    std::vector<double> terms;
    const auto add_vector = [&](const Vec<D>& v) { terms.insert(terms.end(), v.data(), v.data() + D); };
    const auto add_hull = [&](const RoundedHull<D>& hull) {
        terms.push_back(hull.radius());
        terms.push_back(static_cast<double>(hull.points().size()));
        for (const Vec<D>& point : hull.points()) add_vector(point);
    };
    const auto add_layers = [&](LayerSet layers) {
        terms.push_back(static_cast<double>(layers & 0xffffffffU));
        terms.push_back(static_cast<double>(layers >> 32U));
    };
    terms.push_back(s.facings[facing].seconds);
    terms.push_back(s.half_width);
    terms.push_back(mounted.faces == Faces::front ? 1.0 : 0.0);
    add_hull(mounted.body);
    add_layers(mounted.meets);
    for (const Field<Intent>& field : intent_fields()) {
        const FieldValue value = field.get(s.rig.intent);
        if (const auto* const number = std::get_if<double>(&value)) terms.push_back(*number);
        if (const auto* const pair = std::get_if<std::vector<double>>(&value))
            terms.insert(terms.end(), pair->begin(), pair->end());
    }
    for (std::size_t i = 0; i < s.rig.signals.size(); ++i) {
        const auto claim = s.rig.signals[i].claims;
        terms.push_back(claim ? static_cast<double>(*claim) : -1.0);
        if (!claim) continue;
        add_layers(mounted.of[i]);
        if (*claim == Claim::headroom || *claim == Claim::ledge) add_hull(mounted.asked[i]);
        if (!is_toward(*claim)) continue;
        add_vector(direction_toward<D>(mounted.toward[i], *claim, situation, s.level.up()));
        if (*claim == Claim::blocked) terms.push_back(s.rig.intent.planned_move(situation.velocity.norm()));
        // The boxes around what shapes sweep lie along the heading.
        if (D == 3) add_vector(situation.heading);
    }
    return terms;
}

}  // namespace

template <int D>
Surveyed<D>::Surveyed(const Level<D>& given_level, const Rig<D>& given_rig, const SurveyOptions& options,
                      KeptTruths<D>& kept_truths)
    : level(given_level),
      rig((check(given_rig), given_rig)),
      kept(kept_truths),
      facings(facings_of(level, rig, options)),
      half_width(widest_half(rig)),
      narrowest_width(width_of_narrowest(rig, facings)),
      region(region_of(level, options)),
      grid({LevelAxes<D>(level.up()), {}, 1.0, 0}),
      tick_seconds(options.tick_seconds),
      most_kept(options.most_kept),
      stop(options.stop),
      seed_(options.seed),
      border_fraction_(options.border_fraction),
      moments(moments_of(level, options)) {
    if (!std::isfinite(tick_seconds) || tick_seconds <= 0.0)
        throw InvalidInput("tick_seconds must be more than 0");
    if (most_kept < 1000) throw InvalidInput("most_kept must be at least 1000");
    for (std::size_t i = 0; i < facings.size(); ++i) {
        mounted.emplace_back(rig, level_of(i), facings[i].stance, situation(i));
        const HullView<D> body = mounted.back().body.view();
        body_size = std::max(body_size, bounds_of(body).size().norm());
    }
    for (const Probe<D>& probe : rig.probes)
        feels_contacts = feels_contacts || probe.kind == ProbeKind::contact;
    ticks_before = ticks_remembered(rig, options, body_size);
    const Forgiveness& forgive = rig.intent.forgive;
    const double remembered = std::max(forgive.late, forgive.after_take_off) / tick_seconds;
    ticks_of_way =
        std::max(ticks_before, static_cast<std::size_t>(std::min(std::ceil(remembered + 1.0), 240.0)));
    if (ticks_before == 0 && remembered == 0.0) ticks_of_way = 0;
    double widest = half_width;
    for (std::size_t i = 0; i < facings.size(); ++i) {
        const Bounds<D> reach = Feelers<D>(*this, i).reach;
        Vec<D> across = reach.low.cwiseAbs().cwiseMax(reach.high.cwiseAbs());
        across[1] = 0.0;
        widest = std::max(widest, across.norm());
    }
    extents = extents_of<D>(pointers(level, moments), grid.axes, widest, region);
    finest_spacing = chosen_spacing<D>(*this, options);
    for (std::size_t i = 0; i < facings.size(); ++i)
        terms.push_back(kept.store().number_of(terms_of<D>(*this, i)));
}

template <int D>
void Surveyed<D>::lay_grid(double distance) {
    spacing = distance;
    grid = Grid<D>(grid.axes, extents, spacing, seed_);
    // Halving must stop alike everywhere.
    const double standard =
        std::ldexp(1.0, -std::min(standard_halvings, most_halvings.value_or(standard_halvings)));
    const double fraction = border_fraction_ > 0.0 ? border_fraction_ : standard;
    border_width = grid.spacing * fraction * (1.0 + 1e-9);
}

template <int D>
Situation<D> Surveyed<D>::situation(std::size_t facing) const {
    const Facing<D>& f = facings[facing];
    return {f.heading, f.velocity, f.drive, f.grounded};
}

template <int D>
std::vector<MoveContact<D>> Surveyed<D>::contacts(const MountedRig<D>& rig_there, std::size_t facing,
                                                  const Vec<D>& anchor) const {
    return touched_by<D>(level_of(facing), rig_there, anchor, rig.intent.touch);
}

template <int D>
typename Surveyed<D>::Way Surveyed<D>::way_to(std::size_t facing, const Vec<D>& anchor,
                                              double above_rest) const {
    const MountedRig<D>& rig_there = mounted[facing];
    const Facing<D>& f = facings[facing];
    const Level<D>& here = level_of(facing);
    const Vec<D>& up = level.up();
    const Vec<D> stride = tick_seconds * f.velocity;
    Way way;
    way.facing = facing;
    way.anchors.push_back(anchor);
    const auto fits = [&](const Vec<D>& at) {
        return !clip<D>(here, placed_body<D>(rig_there, at), rig.intent).on;
    };
    if (ticks_of_way == 0) {
        // Only where it is counts.
    } else if (f.arrival == Arrival::jumped) {
        // Back down to the ground it took off from, where it stood.
        Vec<D> at = anchor - stride;
        double left = above_rest - stride.norm();
        while (left > 0.0 && way.anchors.size() < ticks_of_way && fits(at)) {
            way.anchors.push_back(at);
            at -= stride;
            left -= stride.norm();
        }
        // Far from any ground it has been on its way for longer than is remembered.
        const bool from_ground = above_rest > 0.0 && std::isfinite(above_rest);
        const Vec<D> ground = from_ground ? Vec<D>(anchor - above_rest * up) : way.anchors.back();
        const std::size_t flight = way.anchors.size();
        for (std::size_t i = 0; i < ticks_of_way; ++i) way.anchors.push_back(ground);
        way.jump = way.anchors.size() - flight;
    } else {
        const bool on_ground = f.arrival == Arrival::walked && std::abs(above_rest) <= rig.intent.touch;
        std::vector<double> heights_there;
        Vec<D> at = anchor;
        for (std::size_t i = 0; i < ticks_of_way; ++i) {
            at -= stride;
            if (on_ground) {
                // Over whatever it could have walked on.
                const double now = up.dot(at) - above_rest;
                find_rests<D>(here, {rig_there.body.view(), at - up.dot(at) * up, rig_there.meets},
                              rig.intent, heights_there, nullptr, Held::from_below,
                              {now - rig.intent.tallest_step, now + rig.intent.tallest_step});
                double best = infinity;
                for (const double height : heights_there) {
                    if (std::abs(height - now) < std::abs(best)) best = height - now;
                }
                if (std::abs(best) <= rig.intent.tallest_step) at += best * up;
            }
            if (!stride.isZero() && !fits(at)) break;
            way.anchors.push_back(at);
        }
    }
    std::reverse(way.anchors.begin(), way.anchors.end());
    if (feels_contacts) {
        for (const Vec<D>& at : way.anchors) way.touched.push_back(contacts(rig_there, facing, at));
    }
    return way;
}

template <int D>
Tick<D> Surveyed<D>::tick_at(const Way& way, std::size_t number) const {
    const Vec<D>& before = way.anchors[number > 0 ? number - 1 : 0];
    const std::uint64_t events = number == way.jump ? ~std::uint64_t{0} : 0;
    Tick<D> now{way.anchors[number], before, tick_seconds, events, {}};
    if (feels_contacts) now.contacts = way.touched[number];
    return now;
}

template <int D>
void Surveyed<D>::read_along(Way& way) const {
    if (ticks_before == 0) return;
    const MountedRig<D>& rig_there = mounted[way.facing];
    RigMemory memory = rig_there.memory();
    std::vector<Reading<D>> readings(rig_there.probes.size());
    for (std::size_t i = 0; i < way.anchors.size(); ++i) {
        rig_there.tick(level_of(way.facing), tick_at(way, i), memory, readings);
        ReadingSet on;
        for (std::size_t k = 0; k < readings.size(); ++k) {
            if (rig_there.probes[k].mounted) on |= rig_there.bits_of(k, readings[k]);
        }
        way.on.push_back(on);
    }
}

template <int D>
SignalSet Surveyed<D>::signals_after(const MountedRig<D>& rig_there, const Way& way) const {
    RigMemory memory = rig_there.memory();
    SignalSet signals;
    for (std::size_t i = 0; i < way.anchors.size(); ++i)
        signals = rig_there.remember(way.on[i], tick_at(way, i), memory);
    return signals;
}

template <int D>
Heard Surveyed<D>::hear(const MountedRig<D>& rig_there, const Way& way,
                        std::span<Reading<D>> readings) const {
    const Level<D>& here = level_of(way.facing);
    if (ticks_before == 0) {
        const Tick<D> now = tick_at(way, way.anchors.size() - 1);
        const ReadingSet on = rig_there.probes_on(here, now.anchor, readings, now.contacts);
        return {on, rig_there.signals_on(on)};
    }
    RigMemory memory = rig_there.memory();
    std::vector<Reading<D>> own(readings.empty() ? rig_there.probes.size() : 0);
    const std::span<Reading<D>> read = readings.empty() ? std::span<Reading<D>>(own) : readings;
    Heard heard;
    for (std::size_t i = 0; i < way.anchors.size(); ++i)
        heard.signals_on = rig_there.tick(here, tick_at(way, i), memory, read);
    for (std::size_t i = 0; i < read.size(); ++i) {
        if (rig_there.probes[i].mounted) heard.probes_on |= rig_there.bits_of(i, read[i]);
    }
    return heard;
}

template struct Surveyed<2>;
template struct Surveyed<3>;

}  // namespace hollow_probe
