#include "verify/changes/change.hpp"

namespace hollow_probe {

template <int D>
int probe_of(const Change<D>& change) {
    return std::visit(
        [](const auto& kind) {
            if constexpr (requires { kind.probe(); }) return kind.probe();
            return -1;
        },
        change);
}

template <int D>
bool make(const Change<D>& change, Probe<D>& probe, const Rig<D>& rig) {
    return std::visit(
        [&](const auto& kind) {
            if constexpr (requires { kind.make(probe, rig); }) return kind.make(probe, rig);
            return false;
        },
        change);
}

template <int D>
bool make(const Change<D>& change, Rig<D>& rig) {
    if (const int probe = probe_of<D>(change); probe >= 0)
        return make<D>(change, rig.probes[static_cast<std::size_t>(probe)], rig);
    return std::visit(
        [&](const auto& kind) {
            if constexpr (requires { kind.make(rig); }) return kind.make(rig);
            return false;
        },
        change);
}

template <int D>
ChangeWords words_of(const Change<D>& change, const Rig<D>& rig, const Level<D>& level) {
    return std::visit(
        [&](const auto& kind) -> ChangeWords {
            if constexpr (requires { kind.words(rig); }) return kind.words(rig);
            if constexpr (requires { kind.words_in(level); }) return kind.words_in(level);
            return {};
        },
        change);
}

template <int D>
std::string about(const Change<D>& change) {
    return std::visit(
        [](const auto& kind) -> std::string {
            if constexpr (requires { kind.about(); }) return kind.about();
            return "nothing";
        },
        change);
}

template <int D>
bool exclude_each_other(const Change<D>& a, const Change<D>& b) {
    if (a.index() != b.index() || probe_of<D>(a) != probe_of<D>(b)) return false;
    if (std::holds_alternative<ListName>(a)) return false;  // several layers, several stances
    const auto signal = [](const Change<D>& change) {
        return std::visit(
            [](const auto& kind) {
                if constexpr (requires { kind.signal; }) return kind.signal;
                return std::size_t{0};
            },
            change);
    };
    if (signal(a) != signal(b)) return false;
    const auto place = [](const Change<D>& change) -> const FieldPlace* {
        if (const auto* const number = std::get_if<SetNumber>(&change)) return &number->place;
        if (const auto* const choice = std::get_if<SetChoice>(&change)) return &choice->place;
        return nullptr;
    };
    return place(a) == nullptr || *place(a) == *place(b);
}

template <int D>
std::optional<double> amount_of(const Change<D>& change) {
    return std::visit(
        [](const auto& kind) -> std::optional<double> {
            if constexpr (requires { kind.amount; }) return kind.amount;
            return std::nullopt;
        },
        change);
}

template <int D>
std::optional<double> unchanged_of(const Change<D>& change, const Rig<D>& rig) {
    return std::visit(
        [&](const auto& kind) -> std::optional<double> {
            if constexpr (requires { kind.unchanged(rig); }) return kind.unchanged(rig);
            return std::nullopt;
        },
        change);
}

template <int D>
void set_amount(Change<D>& change, double amount) {
    std::visit(
        [&](auto& kind) {
            if constexpr (requires { kind.set_amount(amount); }) {
                kind.set_amount(amount);
            } else if constexpr (requires { kind.amount; }) {
                kind.amount = amount;
            }
        },
        change);
}

template <int D>
double farthest_of(const Change<D>& change, const Rig<D>& rig, double body_size) {
    return std::visit(
        [&](const auto& kind) {
            if constexpr (requires { kind.farthest(rig, body_size); }) return kind.farthest(rig, body_size);
            return 0.0;
        },
        change);
}

template <int D>
std::optional<double> file_value(const Change<D>& change, const Rig<D>& rig, double amount) {
    return std::visit(
        [&](const auto& kind) -> std::optional<double> {
            if constexpr (requires { kind.file_value(rig, amount); }) return kind.file_value(rig, amount);
            if constexpr (requires { kind.amount; }) return amount;
            return std::nullopt;
        },
        change);
}

template <int D>
double amount_for(const Change<D>& change, const Rig<D>& rig, double value) {
    return std::visit(
        [&](const auto& kind) {
            if constexpr (requires { kind.amount_for(rig, value); }) return kind.amount_for(rig, value);
            return value;
        },
        change);
}

template int probe_of<2>(const Change<2>&);
template int probe_of<3>(const Change<3>&);
template bool make<2>(const Change<2>&, Probe<2>&, const Rig<2>&);
template bool make<3>(const Change<3>&, Probe<3>&, const Rig<3>&);
template bool make<2>(const Change<2>&, Rig<2>&);
template bool make<3>(const Change<3>&, Rig<3>&);
template ChangeWords words_of<2>(const Change<2>&, const Rig<2>&, const Level<2>&);
template ChangeWords words_of<3>(const Change<3>&, const Rig<3>&, const Level<3>&);
template std::string about<2>(const Change<2>&);
template std::string about<3>(const Change<3>&);
template bool exclude_each_other<2>(const Change<2>&, const Change<2>&);
template bool exclude_each_other<3>(const Change<3>&, const Change<3>&);
template std::optional<double> amount_of<2>(const Change<2>&);
template std::optional<double> amount_of<3>(const Change<3>&);
template std::optional<double> unchanged_of<2>(const Change<2>&, const Rig<2>&);
template std::optional<double> unchanged_of<3>(const Change<3>&, const Rig<3>&);
template void set_amount<2>(Change<2>&, double);
template void set_amount<3>(Change<3>&, double);
template double farthest_of<2>(const Change<2>&, const Rig<2>&, double);
template double farthest_of<3>(const Change<3>&, const Rig<3>&, double);
template std::optional<double> file_value<2>(const Change<2>&, const Rig<2>&, double);
template std::optional<double> file_value<3>(const Change<3>&, const Rig<3>&, double);
template double amount_for<2>(const Change<2>&, const Rig<2>&, double);
template double amount_for<3>(const Change<3>&, const Rig<3>&, double);

}  // namespace hollow_probe
