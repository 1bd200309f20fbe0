#include "hollow_probe/io/rig_text.hpp"

#include "hollow_probe/rig/differences.hpp"
#include "rig/key_text.hpp"

namespace hollow_probe {
namespace {

std::string block(const std::string& table, const std::vector<KeyText>& keys, const std::string& comment) {
    std::string text = "\n";
    if (!comment.empty()) text += "# " + comment + "\n";
    text += "[[" + table + "]]\n";
    for (const KeyText& key : keys) {
        if (!key.text.empty()) text += key.key + " = " + key.text + "\n";
    }
    return text;
}

}  // namespace

template <int D>
std::string body_text(const Body<D>& body) {
    std::string text = "format = \"hollow-probe rig 1\"\ndimensions = " + std::to_string(D) +
                       "\n\n[body]\nmeets = " + list_text(body.meets) + "\n";
    for (const Stance<D>& stance : body.stances) {
        // "{ capsule = { … } }" without the outer braces.
        const std::string shape = shape_text<D>(stance.shape);
        text += "[[body.stance]]\nname = " + quoted_text(stance.name) + "\n" +
                shape.substr(2, shape.size() - 4) + "\n";
    }
    return text;
}

template <int D>
std::string blocks_text(const Rig<D>& rig, const std::map<std::string, std::string>& comments) {
    std::string text;
    const auto comment = [&](const std::string& name) {
        const auto found = comments.find(name);
        return found == comments.end() ? std::string() : found->second;
    };
    for (const Probe<D>& probe : rig.probes) text += block("probe", keys_of<D>(probe), comment(probe.name));
    for (const Signal& signal : rig.signals) text += block("signal", keys_of(signal), comment(signal.name));
    return text;
}

template std::string body_text<2>(const Body<2>&);
template std::string body_text<3>(const Body<3>&);
template std::string blocks_text<2>(const Rig<2>&, const std::map<std::string, std::string>&);
template std::string blocks_text<3>(const Rig<3>&, const std::map<std::string, std::string>&);

}  // namespace hollow_probe
