#include "hollow_probe/rig/settings.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace hollow_probe {
namespace {

/// Makes settings of the fields of one owner: `of(rig)` finds it in a copy of the rig.
template <int D, class Owner>
class Settings {
  public:
    Settings(std::string table, std::string name, std::function<Owner&(Rig<D>&)> of,
             std::vector<Setting<D>>& all)
        : table_(std::move(table)), name_(std::move(name)), of_(std::move(of)), all_(all) {}

    void add(const Field<Owner>& field, const Owner& owner, double scale,
             const std::vector<std::string>& layers) {
        if (field.set == nullptr) return;
        const FieldValue value = field.get(owner);
        if (const auto* const number = std::get_if<double>(&value)) {
            add_number(field, *number, scale, -1);
        } else if (const auto* const numbers = std::get_if<std::vector<double>>(&value)) {
            for (std::size_t i = 0; i < numbers->size(); ++i)
                add_number(field, (*numbers)[i], scale, static_cast<int>(i));
        } else if (const auto* const flag = std::get_if<bool>(&value)) {
            add_choices(field, {FieldValue(!*flag)});
        } else if (const auto* const count = std::get_if<std::int64_t>(&value)) {
            if (field.words.empty()) {
                add_number(field, static_cast<double>(*count), 4.0, -1);
                return;
            }
            std::vector<FieldValue> others;
            for (std::size_t i = 0; i < field.words.size(); ++i) {
                if (static_cast<std::int64_t>(i) != *count) others.emplace_back(static_cast<std::int64_t>(i));
            }
            add_choices(field, others);
        } else if (const auto* const names = std::get_if<std::vector<std::string>>(&value)) {
            if (field.names == NamesOf::layers) add_choices(field, toggled(*names, layers));
        } else if (const auto* const members = std::get_if<std::vector<Member>>(&value)) {
            add_choices(field, fewer(*members));
        }
    }

  private:
    static constexpr std::size_t most_choices = 63;

    /// Calls visit(which) for sets of so many things, by bits: one at a time, then two, and so on.
    template <class Visit>
    static void for_each_set(std::size_t of, Visit visit) {
        constexpr std::size_t most_things = 16;
        of = std::min(of, most_things);
        for (std::size_t size = 1; size <= of; ++size) {
            for (std::uint32_t set = 1; set < std::uint32_t{1} << of; ++set) {
                if (static_cast<std::size_t>(std::popcount(set)) == size && !visit(set)) return;
            }
        }
    }

    /// Other lists of the names known, those that differ in the fewest names first.
    static std::vector<FieldValue> toggled(const std::vector<std::string>& names,
                                           const std::vector<std::string>& known) {
        std::vector<FieldValue> others;
        for_each_set(known.size(), [&](std::uint32_t set) {
            std::vector<std::string> changed = names;
            for (std::size_t i = 0; i < known.size(); ++i) {
                if ((set >> i & 1U) != 0 && std::erase(changed, known[i]) == 0) changed.push_back(known[i]);
            }
            if (!changed.empty()) others.emplace_back(changed);  // what sees nothing is no probe
            return others.size() < most_choices;
        });
        return others;
    }

    /// Without some of the members, the fewest first.
    static std::vector<FieldValue> fewer(const std::vector<Member>& members) {
        std::vector<FieldValue> others;
        for_each_set(members.size(), [&](std::uint32_t set) {
            std::vector<Member> left;
            for (std::size_t i = 0; i < members.size(); ++i) {
                if (i >= 32 || (set >> i & 1U) == 0) left.push_back(members[i]);
            }
            if (!left.empty()) others.emplace_back(left);
            return others.size() < most_choices;
        });
        return others;
    }

    Setting<D> setting(const Field<Owner>& field, int part) const {
        Setting<D> made;
        made.table = table_;
        made.name = name_;
        made.key = std::string(field.key) + (part < 0 ? "" : "[" + std::to_string(part) + "]");
        made.text = [of = of_, field, part](const Rig<D>& rig) {
            Rig<D> copy = rig;
            const FieldValue value = field.get(of(copy));
            if (const auto* const numbers = std::get_if<std::vector<double>>(&value);
                part >= 0 && numbers != nullptr)
                return text_of(FieldValue((*numbers)[static_cast<std::size_t>(part)]), {});
            return text_of(value, field.words);
        };
        return made;
    }

    /// Nothing for a value that the field, or the rig with it, cannot have.
    static std::optional<Rig<D>> with_value(Rig<D> rig, const Field<Owner>& field,
                                            const std::function<Owner&(Rig<D>&)>& of,
                                            const FieldValue& value) {
        try {
            field.set(of(rig), value);
            check(rig);
        } catch (const InvalidInput&) {
            return std::nullopt;
        }
        return rig;
    }

    void add_number(const Field<Owner>& field, double now, double scale, int part) {
        Setting<D> made = setting(field, part);
        made.now = now;
        made.scale = scale;
        made.limits = field.limits;
        made.whole = field.type == FieldType::integer;
        made.with = [of = of_, field, part](const Rig<D>& rig, double x) -> std::optional<Rig<D>> {
            if (!field.limits.hold(x)) return std::nullopt;
            Rig<D> changed = rig;
            FieldValue value = field.get(of(changed));
            if (part >= 0) {
                std::get<std::vector<double>>(value)[static_cast<std::size_t>(part)] = x;
            } else if (std::holds_alternative<std::int64_t>(value)) {
                value = static_cast<std::int64_t>(std::llround(x));
            } else {
                value = x;
            }
            return with_value(std::move(changed), field, of, value);
        };
        all_.push_back(std::move(made));
    }

    void add_choices(const Field<Owner>& field, std::vector<FieldValue> others) {
        if (others.empty()) return;
        Setting<D> made = setting(field, -1);
        made.choices = others.size();
        made.with = [of = of_, field, others = std::move(others)](const Rig<D>& rig, double x) {
            return with_value(rig, field, of, others[static_cast<std::size_t>(x)]);
        };
        all_.push_back(std::move(made));
    }

    std::string table_;
    std::string name_;
    std::function<Owner&(Rig<D>&)> of_;
    std::vector<Setting<D>>& all_;
};

}  // namespace

template <int D>
std::vector<Setting<D>> settings_of(const Rig<D>& rig, const std::vector<std::string>& layers,
                                    double top_speed) {
    static constexpr std::array<std::string_view, 9> what_it_is = {
        "name", "kind", "claims", "gives", "gives_from", "do", "on", "when", "stance"};
    const double size = rig.body.stances.front().shape.bounds().size().norm();
    const auto scale_of = [&](Unit unit) {
        switch (unit) {
            case Unit::length:
                return size;
            case Unit::degrees:
                return 90.0;
            case Unit::speed:
                return std::max(2.0 * top_speed, size);
            case Unit::seconds:
            case Unit::none:
            case Unit::count:
                break;
        }
        return 1.0;
    };
    std::vector<Setting<D>> all;
    const auto add = [&]<class Owner>(std::span<const Field<Owner>> fields, std::size_t kind,
                                      const Owner& owner, const std::string& table, const std::string& name,
                                      std::function<Owner&(Rig<D>&)> of) {
        Settings<D, Owner> settings(table, name, std::move(of), all);
        for (const Field<Owner>& field : fields) {
            if (!field.is_for(kind) ||
                std::find(what_it_is.begin(), what_it_is.end(), field.key) != what_it_is.end())
                continue;
            settings.add(field, owner, scale_of(field.unit), layers);
        }
    };
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        const Probe<D>& probe = rig.probes[i];
        add.template operator()<Probe<D>>(probe_fields<D>(), static_cast<std::size_t>(probe.kind()), probe,
                                          "probe", probe.name,
                                          [i](Rig<D>& r) -> Probe<D>& { return r.probes[i]; });
    }
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        const Signal& signal = rig.signals[i];
        const std::size_t kind = signal.claims ? static_cast<std::size_t>(*signal.claims) : all_claims.size();
        add.template operator()<Signal>(signal_fields(), kind, signal, "signal", signal.name,
                                        [i](Rig<D>& r) -> Signal& { return r.signals[i]; });
    }
    for (std::size_t i = 0; i < rig.reflexes.size(); ++i) {
        const Reflex& reflex = rig.reflexes[i];
        add.template operator()<Reflex>(reflex_fields(), static_cast<std::size_t>(reflex.kind), reflex,
                                        "reflex", name_of(reflex),
                                        [i](Rig<D>& r) -> Reflex& { return r.reflexes[i]; });
    }
    Setting<D> reads;
    reads.key = "reads";
    reads.choices = 1;
    const Reads other = rig.reads == Reads::after_move ? Reads::before_move : Reads::after_move;
    reads.with = [other](const Rig<D>& r, double) -> std::optional<Rig<D>> {
        Rig<D> changed = r;
        changed.reads = other;
        return changed;
    };
    reads.text = [](const Rig<D>& r) {
        return std::string(r.reads == Reads::after_move ? "\"after_move\"" : "\"before_move\"");
    };
    all.push_back(std::move(reads));
    return all;
}

template <int D>
std::string path_of(const Setting<D>& setting) {
    return setting.table.empty() ? setting.key : setting.table + "." + setting.name + "." + setting.key;
}

namespace {

/// Without the form of a shape: "probe.sole.shape.radius".
std::string without_form(const std::string& path) {
    for (const std::string form : {".shape.box.", ".shape.ball.", ".shape.capsule.", ".shape.hull."}) {
        if (const std::size_t at = path.find(form); at != std::string::npos)
            return path.substr(0, at) + ".shape." + path.substr(at + form.size());
    }
    return path;
}

}  // namespace

template <int D>
const Setting<D>& setting_named(const std::vector<Setting<D>>& settings, const std::string& path) {
    std::string begun;
    for (const Setting<D>& setting : settings) {
        const std::string whole = path_of<D>(setting);
        if (whole == path || without_form(whole) == path) return setting;
        // "probe.sole", or "probe.sole.accept.angle" of a field with parts
        if (whole.starts_with(path + ".") || whole.starts_with(path + "[") || path.starts_with(whole))
            begun += (begun.empty() ? "" : ", ") + whole;
    }
    if (begun.empty()) {
        // What is set of the same probe, signal or reflex.
        const std::size_t name = path.find('.');
        const std::size_t end = name == std::string::npos ? name : path.find('.', name + 1);
        for (const Setting<D>& setting : settings) {
            const std::string whole = path_of<D>(setting);
            if (end != std::string::npos && whole.starts_with(path.substr(0, end + 1)))
                begun += (begun.empty() ? "" : ", ") + whole;
        }
    }
    if (begun.empty()) {
        for (const Setting<D>& setting : settings) {
            const std::string owner = setting.table.empty() ? "" : setting.table + "." + setting.name + ".…";
            if (!owner.empty() && !begun.ends_with(owner)) begun += (begun.empty() ? "" : ", ") + owner;
        }
    }
    throw InvalidInput("there is no setting '" + path + "', expected one of " + begun);
}

template std::string path_of<2>(const Setting<2>&);
template std::string path_of<3>(const Setting<3>&);
template const Setting<2>& setting_named<2>(const std::vector<Setting<2>>&, const std::string&);
template const Setting<3>& setting_named<3>(const std::vector<Setting<3>>&, const std::string&);
template std::vector<Setting<2>> settings_of<2>(const Rig<2>&, const std::vector<std::string>&, double);
template std::vector<Setting<3>> settings_of<3>(const Rig<3>&, const std::vector<std::string>&, double);

}  // namespace hollow_probe
