#include "hollow_probe/io/propose_json.hpp"

#include "io/json.hpp"

namespace hollow_probe {

template <int D>
std::string propose_json(const std::vector<std::string>& levels, const Proposal<D>& proposal) {
    Json json = {{"format", "hollow-probe proposal 1"},
                 {"levels", levels},
                 {"claims", Json::array()},
                 {"missed_poses", proposal.wrong.missed_poses},
                 {"false_poses", proposal.wrong.false_poses},
                 {"wrong_lines", proposal.wrong_lines}};
    for (const ProposedClaim<D>& proposed : proposal.claims) {
        Json claim = {
            {"claim", name_of(std::optional(proposed.claim))},
            {"chosen", proposed.chosen ? Json(proposed.families[*proposed.chosen].name) : Json(nullptr)},
            {"families", Json::array()}};
        for (const TriedFamily<D>& one : proposed.families) {
            claim["families"].push_back({{"family", one.name},
                                         {"what", one.what},
                                         {"missed", one.wrong.missed},
                                         {"false", one.wrong.falsely},
                                         {"missed_poses", one.wrong.missed_poses},
                                         {"false_poses", one.wrong.false_poses},
                                         {"wrong_lines", one.wrong_lines},
                                         {"casts", one.cost.casts},
                                         {"overlaps", one.cost.overlaps},
                                         {"pieces", one.cost.pieces},
                                         {"tuned", one.tuned},
                                         {"none_beats_it", one.in_front}});
        }
        json["claims"].push_back(claim);
    }
    return json.dump(2) + "\n";
}

template std::string propose_json<2>(const std::vector<std::string>&, const Proposal<2>&);
template std::string propose_json<3>(const std::vector<std::string>&, const Proposal<3>&);

}  // namespace hollow_probe
