#include "hollow_probe/report/propose_text.hpp"

#include <fmt/format.h>

#include "hollow_probe/report/advice_text.hpp"
#include "report/text_table.hpp"

namespace hollow_probe {

template <int D>
std::string propose_text(const std::string& title, const Proposal<D>& proposal, const TextOptions& options) {
    std::string out = title + "\n\n";
    TextTable table;
    table.add({"claim", "family", "○ missed", "× false", "lines wrong", "casts", "overlaps", "pieces"});
    for (const ProposedClaim<D>& proposed : proposal.claims) {
        const std::string claim = name_of(std::optional(proposed.claim));
        if (proposed.families.empty()) table.add({claim, "none is known"});
        for (std::size_t i = 0; i < proposed.families.size(); ++i) {
            const TriedFamily<D>& one = proposed.families[i];
            std::string note = proposed.chosen == i ? "chosen" : one.in_front ? "none beats it" : "";
            if (one.tuned) note += (note.empty() ? "" : ", ") + std::string("tuned");
            table.add({i == 0 ? claim : "", one.name, measure_text(one.wrong.missed),
                       measure_text(one.wrong.falsely), std::to_string(one.wrong_lines),
                       std::to_string(one.cost.casts), std::to_string(one.cost.overlaps),
                       std::to_string(one.cost.pieces), note});
        }
    }
    out += table.text() + "\n";
    const auto say = [&](const std::string& text) {
        for (const std::string& line : wrapped(text, options.width)) out += line + "\n";
    };
    for (const ProposedClaim<D>& proposed : proposal.claims) {
        const std::string claim = name_of(std::optional(proposed.claim));
        if (!proposed.chosen) {
            say(fmt::format("{}: no family of probes is known to keep it.", claim));
            continue;
        }
        const TriedFamily<D>& chosen = proposed.families[*proposed.chosen];
        std::string text = claim + ": " + chosen.what + ".";
        if (!chosen.right())
            text +=
                fmt::format(" No family is right everywhere: {} stay wrong.", poses(chosen.wrong.poses()));
        say(text);
    }
    if (!proposal.rig.signals.empty())
        say(fmt::format("The whole rig, surveyed: {} wrong; {} of its data sheet's lines wrong.",
                        proposal.wrong.poses() == 0 ? "nothing" : poses(proposal.wrong.poses()),
                        proposal.wrong_lines));
    if (proposal.left) out += "\n" + left_text<D>(proposal.rig, *proposal.left, options.width) + "\n";
    return out;
}

template std::string propose_text<2>(const std::string&, const Proposal<2>&, const TextOptions&);
template std::string propose_text<3>(const std::string&, const Proposal<3>&, const TextOptions&);

}  // namespace hollow_probe
