#include "hollow_probe/rig/fields.hpp"

#include <cmath>

#include "hollow_probe/rig/differences.hpp"
#include "rig/key_text.hpp"

namespace hollow_probe {
namespace {

/// Without decimals where there are none.
std::string short_number(double x) {
    std::string text = file_number(x);
    if (text.ends_with(".0")) text.resize(text.size() - 2);
    return text;
}

/// The numbers that limits are about.
std::vector<double> numbers_in(const FieldValue& value) {
    if (const auto* const one = std::get_if<double>(&value)) return {*one};
    if (const auto* const whole = std::get_if<std::int64_t>(&value)) return {static_cast<double>(*whole)};
    if (const auto* const several = std::get_if<std::vector<double>>(&value)) return *several;
    return {};
}

}  // namespace

const char* name_of(Unit unit) {
    static constexpr std::array names = {"", "length", "degrees", "s", "length/s", ""};
    return names[static_cast<std::size_t>(unit)];
}

const char* name_of(FieldType type) {
    static constexpr std::array names = {"number",
                                         "integer",
                                         "boolean",
                                         "string",
                                         "string",
                                         "list of strings",
                                         "list of two numbers",
                                         "vector",
                                         "list of vectors",
                                         "string or vector",
                                         "list of members",
                                         "number or table"};
    return names[static_cast<std::size_t>(type)];
}

bool Limits::hold(double x) const {
    return std::isfinite(x) && (above ? x > least : x >= least) && x <= most;
}

std::string Limits::text() const {
    const bool bounded = std::isfinite(most);
    if (!std::isfinite(least)) return bounded ? short_number(most) + " at most" : "";
    if (above) return "more than " + short_number(least) + (bounded ? ", at most " + short_number(most) : "");
    return short_number(least) + (bounded ? " to " + short_number(most) : " or more");
}

template <class Owner>
std::optional<std::string> broken_limit(std::span<const Field<Owner>> fields, const Owner& owner,
                                        std::size_t kind) {
    for (const Field<Owner>& field : fields) {
        if (!field.is_for(kind) || field.get == nullptr || field.type == FieldType::word) continue;
        const std::vector<double> numbers = numbers_in(field.get(owner));
        for (const double number : numbers) {
            if (!std::isfinite(number)) return std::string(field.key) + " has a number that is not finite";
            if (!field.limits.hold(number)) return std::string(field.key) + " must be " + field.limits.text();
        }
        if (field.ordered && numbers.size() == 2 && numbers[0] > numbers[1])
            return std::string(field.key) + " must have the lower number first";
    }
    return std::nullopt;
}

std::string text_of(const FieldValue& value, std::span<const std::string_view> words) {
    if (const auto* const number = std::get_if<double>(&value)) return file_number(*number);
    if (const auto* const whole = std::get_if<std::int64_t>(&value)) {
        return words.empty() ? std::to_string(*whole)
                             : quoted_text(std::string(words[static_cast<std::size_t>(*whole)]));
    }
    if (const auto* const flag = std::get_if<bool>(&value)) return *flag ? "true" : "false";
    if (const auto* const text = std::get_if<std::string>(&value)) return quoted_text(*text);
    if (const auto* const numbers = std::get_if<std::vector<double>>(&value))
        return joined(*numbers, file_number);
    if (const auto* const names = std::get_if<std::vector<std::string>>(&value)) return list_text(*names);
    if (const auto* const members = std::get_if<std::vector<Member>>(&value)) return list_text(*members);
    if (const auto* const points = std::get_if<std::vector<std::vector<double>>>(&value)) {
        return joined(*points, [](const std::vector<double>& point) { return joined(point, file_number); });
    }
    return {};
}

template std::optional<std::string> broken_limit<Probe<2>>(std::span<const Field<Probe<2>>>, const Probe<2>&,
                                                           std::size_t);
template std::optional<std::string> broken_limit<Probe<3>>(std::span<const Field<Probe<3>>>, const Probe<3>&,
                                                           std::size_t);
template std::optional<std::string> broken_limit<Signal>(std::span<const Field<Signal>>, const Signal&,
                                                         std::size_t);
template std::optional<std::string> broken_limit<Member>(std::span<const Field<Member>>, const Member&,
                                                         std::size_t);
template std::optional<std::string> broken_limit<Reflex>(std::span<const Field<Reflex>>, const Reflex&,
                                                         std::size_t);
template std::optional<std::string> broken_limit<Intent>(std::span<const Field<Intent>>, const Intent&,
                                                         std::size_t);

}  // namespace hollow_probe
