#include "verify/planned.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/rig/fields.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "verify/facings_alike.hpp"
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
double chosen_spacing(const Planned<D>& s, const SurveyOptions& options) {
    if (!std::isfinite(options.spacing) || options.spacing < 0.0)
        throw InvalidInput("spacing must be more than 0");
    return options.spacing > 0.0 ? options.spacing : 0.25 * s.narrowest_width;
}

/// Everything besides region and anchor that the truths asked at a facing depend on.
template <int D>
std::vector<double> terms_of(const Planned<D>& s, std::size_t facing) {
    const MountedRig<D>& mounted = s.mounted[facing];
    const Situation<D> situation = s.situation(facing);
    std::vector<double> terms;
    const auto add_vector = [&](const Vec<D>& v) { terms.insert(terms.end(), v.data(), v.data() + D); };
    const auto add_hull = [&](const RoundedHull<D>& hull) {
        terms.push_back(hull.radius());
        terms.push_back(static_cast<double>(hull.points().size()));
        // In an order of their own: a box turned about is the same box.
        std::vector<Vec<D>> points = hull.points();
        std::sort(points.begin(), points.end(), [](const Vec<D>& a, const Vec<D>& b) {
            return std::lexicographical_compare(a.data(), a.data() + D, b.data(), b.data() + D);
        });
        for (const Vec<D>& point : points) add_vector(point);
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
Planned<D>::Planned(const Level<D>& given_level, const Rig<D>& given_rig, const SurveyOptions& options,
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
      sharing(options.sharing),
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
        feels_contacts = feels_contacts || probe.kind() == ProbeKind::contact;
    TicksRemembered ticks = ticks_remembered(rig, options, body_size);
    ticks_before = ticks.all;
    ticks_read = std::move(ticks.of_probe);
    ticks_of_signals = ticks.of_signals;
    double far_remembered = 0.0;
    for (const Facing<D>& facing : facings)
        far_remembered = std::max(far_remembered, way_remembered(facing).norm());
    const Forgiveness& forgive = rig.intent.forgive;
    const double remembered = std::max(forgive.late, forgive.after_take_off) / tick_seconds;
    ticks_of_way =
        std::max(ticks_before, static_cast<std::size_t>(std::min(std::ceil(remembered + 1.0), 240.0)));
    if (ticks_before == 0 && remembered == 0.0) ticks_of_way = 0;
    double widest = half_width;
    for (std::size_t i = 0; i < facings.size(); ++i) {
        const Bounds<D> reach = Feelers<D>(*this, i).reach;
        Vec<D> across = reach.low.abs().max(reach.high.abs());
        across[1] = 0.0;
        widest = std::max(widest, across.norm());
    }
    extents = extents_of<D>(pointers(level, moments), grid.axes, widest + far_remembered, region);
    finest_spacing = chosen_spacing<D>(*this, options);
    for (std::size_t i = 0; i < facings.size(); ++i)
        terms.push_back(kept.store().number_of(terms_of<D>(*this, i)));
    first = first_alike<D>(*this);
    explaining = first_explaining<D>(*this);
}

template <int D>
void Planned<D>::lay_grid(double distance) {
    spacing = distance;
    grid = Grid<D>(grid.axes, extents, spacing, seed_);
    // Halving must stop alike everywhere.
    const double standard =
        std::ldexp(1.0, -std::min(standard_halvings, most_halvings.value_or(standard_halvings)));
    const double fraction = border_fraction_ > 0.0 ? border_fraction_ : standard;
    border_width = grid.spacing * fraction * (1.0 + tolerance::accuracy);
}

template <int D>
Situation<D> Planned<D>::situation(std::size_t facing) const {
    const Facing<D>& f = facings[facing];
    return {f.heading, f.velocity, f.drive, f.grounded};
}

template struct Planned<2>;
template struct Planned<3>;

}  // namespace hollow_probe
