#include "hollow_probe/study/vary.hpp"

#include <algorithm>

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

}  // namespace

template <int D>
VaryCurve vary_setting(const Level<D>& level, const Rig<D>& rig, const std::string& setting, double from,
                       double to, std::size_t steps, const SurveyOptions& options) {
    const std::vector<Setting<D>> settings = settings_of<D>(rig, level.layers(), 0.0);
    const Setting<D>& varied = setting_named<D>(settings, setting);
    if (!varied.now) throw InvalidInput("'" + setting + "' is no number: it cannot be varied over a range");
    if (!(from < to))
        throw InvalidInput("'" + setting + "' is to be varied over a range whose ends are in order");
    if (steps == 0) throw InvalidInput("a range is varied in at least one step");
    VaryCurve curve;
    curve.setting = path_of<D>(varied);
    curve.now = *varied.now;
    KeptTruths<D> kept;
    const LevelAxes<D> axes(level.up());
    SurveyOptions quick = options;
    quick.explain = false;
    const auto look = [&](double value) -> std::optional<VaryPoint> {
        const std::optional<Rig<D>> changed = varied.with(rig, value);
        if (!changed) return std::nullopt;
        const Survey<D> survey = hollow_probe::survey<D>(level, *changed, quick, kept);
        return VaryPoint{value, survey.wrong, severity_of<D>(survey, axes, rig.signals.size())};
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
    std::optional<double> wrong_before;  // the last value looked at that is not right
    bool within = false;
    for (std::size_t i = 0; i <= steps; ++i) {
        const double part = static_cast<double>(i) / static_cast<double>(steps);
        const double value = i == steps ? to : from + part * (to - from);
        const std::optional<VaryPoint> point = look(value);
        if (options.progress) options.progress(part);
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

template VaryCurve vary_setting<2>(const Level<2>&, const Rig<2>&, const std::string&, double, double,
                                   std::size_t, const SurveyOptions&);
template VaryCurve vary_setting<3>(const Level<3>&, const Rig<3>&, const std::string&, double, double,
                                   std::size_t, const SurveyOptions&);

}  // namespace hollow_probe
