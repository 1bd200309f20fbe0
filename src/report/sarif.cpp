#include "hollow_probe/report/sarif.hpp"

#include <set>

#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/report/advice_text.hpp"
#include "io/json.hpp"

namespace hollow_probe {

template <int D>
std::vector<SarifResult> sarif_results(const Rig<D>& rig, const Survey<D>& survey, const std::string& text,
                                       const std::string& file) {
    std::vector<SarifResult> results;
    for (const Finding<D>& finding : survey.findings) {
        const CauseReport& cause = finding.causes.front();
        FieldChange concerned;
        if (!cause.edits.empty()) {
            concerned = cause.edits.front();
        } else {
            // No change to the rig: the signal that is wrong.
            concerned.table = "signal";
            concerned.name = rig.signals[finding.signal].name;
        }
        const auto [line, column] = place_of_change(text, file, concerned);
        results.push_back(
            {std::string(name_of(finding.verdict)) + "." + name_of(cause.cause),
             "\"" + rig.signals[finding.signal].name + "\": " + finding_sentence<D>(rig, finding), file, line,
             column, finding.id});
    }
    return results;
}

std::string sarif_log(const std::vector<SarifResult>& results) {
    Json rules = Json::array();
    std::set<std::string> named;
    for (const SarifResult& result : results) {
        if (named.insert(result.rule).second) rules.push_back({{"id", result.rule}});
    }
    Json list = Json::array();
    for (const SarifResult& result : results) {
        list.push_back({{"ruleId", result.rule},
                        {"level", "error"},
                        {"message", {{"text", result.message}}},
                        {"locations",
                         {{{"physicalLocation",
                            {{"artifactLocation", {{"uri", result.file}}},
                             {"region", {{"startLine", result.line}, {"startColumn", result.column}}}}}}}},
                        {"partialFingerprints", {{"finding", result.id}}}});
    }
    const Json log = {{"$schema", "https://json.schemastore.org/sarif-2.1.0.json"},
                      {"version", "2.1.0"},
                      {"runs",
                       {{{"tool", {{"driver", {{"name", "Hollow Probe"}, {"rules", rules}}}}},
                         {"columnKind", "unicodeCodePoints"},
                         {"results", list}}}}};
    return log.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

template std::vector<SarifResult> sarif_results<2>(const Rig<2>&, const Survey<2>&, const std::string&,
                                                   const std::string&);
template std::vector<SarifResult> sarif_results<3>(const Rig<3>&, const Survey<3>&, const std::string&,
                                                   const std::string&);

}  // namespace hollow_probe
