#include "hollow_probe/study/vary.hpp"

#include <algorithm>
#include <functional>

#include "geometry/parallel.hpp"
#include "verify/nearest_other.hpp"

namespace hollow_probe {
namespace {

/// Of wrong poses, every so many of them where there are very many, the gravest.
template <int D>
double severity_of(const Survey<D>& survey, const LevelAxes<D>& axes, std::size_t signals) {
    constexpr std::size_t most = 4000;
    std::vector<std::size_t> wrong;
    const auto is_wrong = [&](const SurveyPose<D>& pose, std::size_t signal) {
        const Verdict verdict = pose.verdict(signal);
        return verdict == Verdict::missed_contact || verdict == Verdict::false_contact;
    };
    for (std::size_t i = 0; i < survey.poses.size(); ++i) {
        for (std::size_t s = 0; s < signals; ++s) {
            if (!survey.signals[s].claims || !is_wrong(survey.poses[i], s)) continue;
            wrong.push_back(i);
            break;
        }
    }
    const NearestOther<D> nearest(survey.poses, axes, survey.spacing);
    const std::size_t step = (wrong.size() + most - 1) / most;
    std::vector<double> far(step == 0 ? 0 : (wrong.size() + step - 1) / step);
    for_each_index(far.size(), [&](std::size_t i) {
        const SurveyPose<D>& pose = survey.poses[wrong[i * step]];
        for (std::size_t s = 0; s < signals; ++s) {
            if (survey.signals[s].claims && is_wrong(pose, s))
                far[i] = std::max(far[i], nearest.distance(pose, s, pose.anchor));
        }
    });
    return far.empty() ? 0.0 : *std::max_element(far.begin(), far.end());
}

/// The curve of what `look` finds wrong with the rig changed.
template <int D>
VaryCurve curve_of(const Rig<D>& rig, const std::vector<std::string>& layers, const std::string& setting,
                   double from, double to, std::size_t steps, const std::function<void(double)>& progress,
                   const std::function<VaryPoint(const Rig<D>&)>& look_at) {
    const std::vector<Setting<D>> settings = settings_of<D>(rig, layers, 0.0);
    const Setting<D>& varied = setting_named<D>(settings, setting);
    if (!varied.now) throw InvalidInput("'" + setting + "' is no number: it cannot be varied over a range");
    if (!(from < to))
        throw InvalidInput("'" + setting + "' is to be varied over a range whose ends are in order");
    if (steps == 0) throw InvalidInput("a range is varied in at least one step");
    VaryCurve curve;
    curve.setting = path_of<D>(varied);
    curve.now = *varied.now;
    const auto look = [&](double value) -> std::optional<VaryPoint> {
        const std::optional<Rig<D>> changed = varied.with(rig, value);
        if (!changed) return std::nullopt;
        VaryPoint point = look_at(*changed);
        point.value = value;
        return point;
    };
    const auto is_right = [](const VaryPoint& point) { return point.wrong.poses() == 0; };
    /// Where right turns to wrong, or to what cannot be, on the side of right.
    const auto end_between = [&](double right, double wrong) {
        const double within = 1e-3 * (to - from);
        while (std::abs(wrong - right) > within) {
            const double middle = 0.5 * (right + wrong);
            const auto point = look(middle);
            (point && is_right(*point) ? right : wrong) = middle;
        }
        return right;
    };
    std::vector<double> values;
    for (std::size_t i = 0; i < steps; ++i)
        values.push_back(from + static_cast<double>(i) / static_cast<double>(steps) * (to - from));
    values.push_back(to);
    const double hair = 1e-9 * (to - from);
    const auto next = std::lower_bound(values.begin(), values.end(), curve.now - hair);
    if (next != values.begin() && next != values.end() && *next > curve.now + hair)
        values.insert(next, curve.now);
    std::optional<double> wrong_before;  // the last value looked at that is not right
    bool within = false;
    for (const double value : values) {
        const std::optional<VaryPoint> point = look(value);
        if (progress) progress((value - from) / (to - from));
        if (point) curve.points.push_back(*point);
        const bool right = point && is_right(*point);
        if (right && !within)
            curve.right.push_back({wrong_before ? end_between(value, *wrong_before) : value, value});
        if (right) curve.right.back().to = value;
        if (!right && within) curve.right.back().to = end_between(curve.right.back().to, value);
        if (!right) wrong_before = value;
        within = right;
    }
    return curve;
}

/// The lines of a data sheet that are about a fixture.
template <int D>
std::vector<std::string> lines_about(const Rig<D>& rig, const FixtureOptions& options,
                                     const std::string& fixture) {
    const auto fixtures = fixtures_of<D>(rig, options);
    std::vector<std::string> lines;
    for (const SheetLine& line : sheet_lines<D>(fixtures)) {
        if (fixtures[line.fixture].name == fixture) lines.push_back(line.name);
    }
    if (!lines.empty()) return lines;
    std::string known;
    for (const Fixture<D>& one : fixtures) known += (known.empty() ? "" : ", ") + one.name;
    throw InvalidInput("no line of the data sheet is about a fixture '" + fixture + "', expected one of " +
                       known);
}

/// In parts of a line's range.
double covered(const std::vector<Stretch>& stretches, double range) {
    double length = 0.0;
    for (const Stretch& one : stretches) length += one.length();
    return length / range;
}

}  // namespace

template <int D>
VaryCurve vary_setting(const Level<D>& level, const Rig<D>& rig, const std::string& setting, double from,
                       double to, std::size_t steps, const SurveyOptions& options) {
    KeptTruths<D> kept;
    const LevelAxes<D> axes(level.up());
    SurveyOptions quick = options;
    quick.explain = false;
    quick.progress = {};
    return curve_of<D>(
        rig, level.layers(), setting, from, to, steps, options.progress, [&](const Rig<D>& changed) {
            const Survey<D> survey = hollow_probe::survey<D>(level, changed, quick, kept);
            return VaryPoint{0.0, survey.wrong, severity_of<D>(survey, axes, rig.signals.size())};
        });
}

template <int D>
VaryCurve vary_setting(const Rig<D>& rig, const std::string& setting, double from, double to,
                       std::size_t steps, const GaugeOptions& options, const std::string& fixture) {
    GaugeOptions quick = options;
    quick.progress = {};
    quick.tick_rates.clear();
    if (!fixture.empty()) quick.lines = lines_about<D>(rig, options.fixtures, fixture);
    VaryCurve curve = curve_of<D>(rig, rig.body.meets, setting, from, to, steps, options.progress,
                                  [&](const Rig<D>& changed) {
                                      VaryPoint point;
                                      for (const SheetRow& row : gauge<D>(changed, quick).rows) {
                                          const ResponseCurve& worst = row.curves[row.worst];
                                          const double range = row.axis.most - row.axis.least;
                                          point.wrong.missed += worst.missed / range;
                                          point.wrong.falsely += worst.falsely / range;
                                          point.wrong.contact += covered(worst.intended, range);
                                          point.wrong.signalled += covered(worst.on, range);
                                          point.wrong.missed_poses += worst.missed > 0.0 ? 1 : 0;
                                          point.wrong.false_poses += worst.falsely > 0.0 ? 1 : 0;
                                          point.severity = std::max(point.severity, worst.wrong() / range);
                                      }
                                      return point;
                                  });
    curve.on_fixtures = true;
    return curve;
}

template VaryCurve vary_setting<2>(const Rig<2>&, const std::string&, double, double, std::size_t,
                                   const GaugeOptions&, const std::string&);
template VaryCurve vary_setting<3>(const Rig<3>&, const std::string&, double, double, std::size_t,
                                   const GaugeOptions&, const std::string&);
template VaryCurve vary_setting<2>(const Level<2>&, const Rig<2>&, const std::string&, double, double,
                                   std::size_t, const SurveyOptions&);
template VaryCurve vary_setting<3>(const Level<3>&, const Rig<3>&, const std::string&, double, double,
                                   std::size_t, const SurveyOptions&);

}  // namespace hollow_probe
