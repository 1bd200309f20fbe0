#include "verify/changes/set_choice.hpp"

namespace hollow_probe {
namespace {

/// Without quotation marks: in a sentence a word needs none.
std::string bare(std::string text) {
    if (text.size() >= 2 && text.front() == '"') return text.substr(1, text.size() - 2);
    return text;
}

}  // namespace

template <int D>
bool SetChoice::make(Probe<D>& changed, const Rig<D>&) const {
    return set_value<D>(changed, place, to);
}

template <int D>
bool SetChoice::make(Rig<D>& rig) const {
    return set_value<D>(rig, place, to);
}

template <int D>
ChangeWords SetChoice::words(const Rig<D>& rig) const {
    const FieldFacts facts = facts_of<D>(rig, place);
    const auto text = [&](const FieldValue& value) {
        if (std::holds_alternative<std::monostate>(value)) return std::string(facts.standard);
        return bare(text_of(value, facts.words));
    };
    return {probe_named<D>(rig, place), path_of<D>(rig, place), text(value_at<D>(rig, place)), text(to)};
}

std::string SetChoice::about() const {
    return "choice " + std::to_string(place.probe) + " " + std::to_string(place.condition) + " " +
           std::string(place.key) + " " + text_of(to, {});
}

template bool SetChoice::make<2>(Probe<2>&, const Rig<2>&) const;
template bool SetChoice::make<3>(Probe<3>&, const Rig<3>&) const;
template bool SetChoice::make<2>(Rig<2>&) const;
template bool SetChoice::make<3>(Rig<3>&) const;
template ChangeWords SetChoice::words<2>(const Rig<2>&) const;
template ChangeWords SetChoice::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
