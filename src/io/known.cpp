#include "hollow_probe/io/known.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace hollow_probe {

std::string AgainstKnown::text() const {
    std::string text;
    const auto add = [&](const char* what, const std::vector<std::string>& ids, bool named) {
        if (ids.empty()) return;
        text += fmt::format("{}{} {}", text.empty() ? "" : ", ", ids.size(), what);
        if (!named) return;
        constexpr std::size_t most = 6;
        text += " (";
        for (std::size_t i = 0; i < std::min(most, ids.size()); ++i) text += (i > 0 ? ", " : "") + ids[i];
        text += ids.size() > most ? ", …)" : ")";
    };
    add("new", fresh, true);
    add("returned", returned, true);
    add("worse", worsened, true);
    add("gone", gone, true);
    add("known", accepted, false);
    return text;
}

template <int D>
AgainstKnown hold_against(const Survey<D>& survey, const std::vector<KnownFinding>& known) {
    constexpr double larger = 1.01;
    AgainstKnown result;
    result.rest = wrong_in<D>(survey);
    double concerned = 0.0;
    for (const SignalVerdicts& signal : survey.signals) {
        if (signal.claims) concerned += signal.concerned();
    }
    const auto less = [](std::size_t whole, std::size_t part) { return whole - std::min(whole, part); };
    for (const Finding<D>& finding : survey.findings) {
        const auto entry = std::find_if(known.begin(), known.end(),
                                        [&](const KnownFinding& one) { return one.id == finding.id; });
        if (entry == known.end()) {
            result.fresh.push_back(finding.id);
            continue;
        }
        if (entry->mended) {
            result.returned.push_back(finding.id);
            continue;
        }
        if (entry->measure && finding.measure > larger * *entry->measure) {
            result.worsened.push_back(finding.id);
            continue;
        }
        result.accepted.push_back(finding.id);
        const double share = concerned > 0.0 ? finding.measure / concerned : 0.0;
        const bool missed = finding.verdict == Verdict::missed_contact;
        std::size_t& poses = missed ? result.rest.missed : result.rest.falsely;
        double& part = missed ? result.rest.missed_share : result.rest.false_share;
        poses = less(poses, finding.count);
        part = std::max(0.0, part - share);
    }
    // Rounding of what was taken away is nothing that is left.
    constexpr double noise = 1e-12;
    if (result.rest.missed_share < noise) result.rest.missed_share = 0.0;
    if (result.rest.false_share < noise) result.rest.false_share = 0.0;
    for (const KnownFinding& one : known) {
        const bool is_there = std::any_of(survey.findings.begin(), survey.findings.end(),
                                          [&](const Finding<D>& finding) { return finding.id == one.id; });
        if (!is_there && !one.mended) result.gone.push_back(one.id);
    }
    return result;
}

template AgainstKnown hold_against<2>(const Survey<2>&, const std::vector<KnownFinding>&);
template AgainstKnown hold_against<3>(const Survey<3>&, const std::vector<KnownFinding>&);

}  // namespace hollow_probe
