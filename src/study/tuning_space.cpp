#include "study/tuning_space.hpp"

#include "verify/roundest.hpp"

namespace hollow_probe {
namespace {

template <int D>
std::vector<std::string> layers_of(const std::vector<const Level<D>*>& levels) {
    std::vector<std::string> layers;
    for (const Level<D>* level : levels) {
        for (const std::string& layer : level->layers()) {
            if (std::find(layers.begin(), layers.end(), layer) == layers.end()) layers.push_back(layer);
        }
    }
    return layers;
}

}  // namespace

template <int D>
TuningSpace<D>::TuningSpace(const std::vector<const Level<D>*>& levels, const Rig<D>& rig,
                            const TuneOptions<D>& options)
    : rig_(rig) {
    std::vector<FreeSetting> free = options.free;
    const std::vector<std::string> layers = layers_of<D>(levels);
    const std::vector<Setting<D>> settings = settings_of<D>(rig, layers, 0.0);
    if (free.empty()) {
        SurveyOptions explained = options.survey;
        explained.most_tried = 0;
        explained.progress = {};
        KeptTruths<D> kept;
        constexpr std::size_t most = 4;
        free = named_by_causes<D>(layers, rig, survey<D>(*levels.front(), rig, explained, kept), most);
        if (free.empty()) throw InvalidInput("no finding's cause names a setting: say which are free");
    }
    for (const FreeSetting& one : free)
        variables_.push_back(variable_of(one, setting_named<D>(settings, one.path)));
}

template <int D>
Variable<D> TuningSpace<D>::variable_of(const FreeSetting& free, const Setting<D>& setting) const {
    Variable<D> variable{setting, 0.0, 1.0};
    if (!setting.now) {
        if (free.range) throw InvalidInput("'" + free.path + "' is no number: it has no range");
        return variable;
    }
    const double now = *setting.now;
    variable.low = free.range ? (*free.range)[0] : std::max(setting.limits.least, now - 0.5 * setting.scale);
    variable.high = free.range ? (*free.range)[1] : std::min(setting.limits.most, now + 0.5 * setting.scale);
    // What is to be more than a limit may not be the limit.
    if (setting.limits.above && variable.low == setting.limits.least)
        variable.low = setting.limits.least + 1e-6 * (variable.high - setting.limits.least);
    if (!(variable.low < variable.high))
        throw InvalidInput("the range of '" + free.path + "' does not go from a lesser to a greater number");
    const bool within = variable.low >= setting.limits.least && variable.high <= setting.limits.most;
    if (free.range && !within)
        throw InvalidInput("the range of '" + free.path + "' leaves its limits, " + setting.limits.text());
    return variable;
}

template <int D>
std::optional<Rig<D>> TuningSpace<D>::rig_at(const Point& point) const {
    std::optional<Rig<D>> rig = rig_;
    for (std::size_t i = 0; i < variables_.size() && rig; ++i) {
        const Variable<D>& v = variables_[i];
        if (!v.is_choice()) {
            rig = v.setting.with(*rig, v.value(point[i]));
        } else if (const std::size_t choice = v.choice(point[i]); choice > 0) {
            rig = v.setting.with(*rig, static_cast<double>(choice - 1));
        }
    }
    return rig;
}

template <int D>
Point TuningSpace<D>::as_it_is() const {
    Point point(variables_.size(), 0.0);
    for (std::size_t i = 0; i < point.size(); ++i) {
        const Variable<D>& v = variables_[i];
        if (!v.is_choice()) point[i] = std::clamp(v.place_of(*v.setting.now), 0.0, 1.0);
    }
    return point;
}

template <int D>
std::optional<Rig<D>> TuningSpace<D>::written_at(const Point& point) const {
    std::optional<Rig<D>> rig = rig_at(point);
    for (std::size_t i = 0; i < variables_.size() && rig; ++i) {
        const Variable<D>& v = variables_[i];
        if (v.is_choice()) continue;
        const double value = v.value(point[i]);
        const double hair = 1e-9 * (v.high - v.low);
        if (auto exact = v.setting.with(*rig, roundest_between(value - hair, value + hair))) rig = exact;
    }
    return rig;
}

template class TuningSpace<2>;
template class TuningSpace<3>;

}  // namespace hollow_probe
