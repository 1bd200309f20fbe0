#include "hollow_probe/report/page.hpp"

#include <fmt/format.h>

#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/survey_text.hpp"

namespace hollow_probe {
namespace {

constexpr std::string_view style = R"(
:root { color-scheme: light dark; }
body { font: 15px/1.45 system-ui, sans-serif; max-width: 1280px; margin: 1rem auto; padding: 0 1rem; }
figure { margin: 0; background: #fff; }
figure svg { width: 100%; height: auto; display: block; }
table { border-collapse: collapse; margin: 0.5rem 0; }
th, td { padding: 0.2rem 0.7rem; text-align: right; border-bottom: 1px solid #8886; }
th:first-child, td:first-child, .words { text-align: left; }
details { border-bottom: 1px solid #8886; padding: 0.4rem 0; }
code { white-space: nowrap; }
)";

std::string escaped(std::string_view text) {
    std::string result;
    for (const char c : text) {
        switch (c) {
            case '&':
                result += "&amp;";
                break;
            case '<':
                result += "&lt;";
                break;
            case '>':
                result += "&gt;";
                break;
            case '"':
                result += "&quot;";
                break;
            default:
                result += c;
        }
    }
    return result;
}

std::string page(const std::string& title, const std::string& svg, const std::string& below) {
    // The figure goes in without its XML declaration.
    const std::size_t start = svg.find("<svg");
    const std::string figure = start == std::string::npos ? "" : svg.substr(start);
    return fmt::format(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
        "<meta name=\"viewport\" "
        "content=\"width=device-width\">\n<title>{0}</title>\n<style>{1}</style>\n</head>\n"
        "<body>\n<h1>{0}</h1>\n<figure role=\"img\" aria-label=\"{0}\">\n{2}</figure>\n{3}</body>\n</html>\n",
        escaped(title), style, figure, below);
}

std::string cause_row(const CauseReport& cause) {
    const std::string probe = cause.probe.empty() ? "(combination)" : cause.probe;
    const auto words = [](const CauseReport& change) {
        return fmt::format("<code>{}</code>: <code>{}</code> → <code>{}</code>", escaped(change.parameter),
                           escaped(change.now), escaped(change.needs));
    };
    std::string change = cause.parameter.empty() ? "" : words(cause);
    for (const CauseReport& further : cause.with)
        change += "<br>and " + (further.probe.empty() ? "" : escaped(further.probe) + " ") + words(further);
    return fmt::format(
        "<tr><td>{}</td><td class=\"words\">{}</td><td "
        "class=\"words\">{}</td><td>{}</td><td>{}</td><td>{}</td>"
        "<td>{}</td><td>{}</td></tr>\n",
        name_of(cause.cause), escaped(probe), change, plain(cause.by), cause.cures, cause.cures_elsewhere,
        cause.adds_missed, cause.adds_false);
}

}  // namespace

std::string figure_page(const std::string& title, const std::string& svg, const std::string& words) {
    return page(title, svg, words.empty() ? "" : "<pre>" + escaped(words) + "</pre>\n");
}

template <int D>
std::string survey_page(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                        const std::string& level_name, const std::string& rig_name) {
    std::string below = fmt::format(
        "<p>{} poses judged: {} on a grid of spacing {}, {} along borders between verdicts; {} left out "
        "because the "
        "body would clip.</p>\n<h2>Verdicts</h2>\n<table>\n<tr><th>signal</th><th>claims</th><th>true "
        "contact</th>"
        "<th>missed</th><th>false</th><th>true "
        "clear</th><th>undecided</th><th>precision</th><th>recall</th></tr>\n",
        survey.judged, survey.grid_poses, plain(survey.spacing), survey.border_poses, survey.clipped);
    for (const SignalVerdicts& signal : survey.signals) {
        below += fmt::format("<tr><td>{}</td><td>{}</td>", escaped(signal.name), name_of(signal.claims));
        for (const std::size_t poses : signal.poses) below += fmt::format("<td>{}</td>", poses);
        below += fmt::format("<td>{:.4f}</td><td>{:.4f}</td></tr>\n", signal.precision(), signal.recall());
    }
    below += fmt::format("</table>\n<h2>{} findings, worst first</h2>\n", survey.findings.size());
    for (const Finding<D>& finding : survey.findings) {
        below += fmt::format("<details{}><summary><b>{}</b> {}</summary>\n<table>\n",
                             &finding == &survey.findings[0] ? " open" : "", escaped(finding.id),
                             escaped(finding_sentence(rig, finding)));
        below +=
            "<tr><th>cause</th><th class=\"words\">probe</th><th "
            "class=\"words\">change</th><th>by</th><th>cures here</th><th>elsewhere</th>"
            "<th>adds missed</th><th>adds false</th></tr>\n";
        for (const CauseReport& cause : finding.causes) below += cause_row(cause);
        below += "</table></details>\n";
    }
    const std::string svg = survey_figure<D>(level, rig, survey, level_name, rig_name, "page.svg");
    return page(rig_name + " on " + level_name, svg, below);
}

template std::string survey_page<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const std::string&,
                                    const std::string&);
template std::string survey_page<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const std::string&,
                                    const std::string&);

}  // namespace hollow_probe
