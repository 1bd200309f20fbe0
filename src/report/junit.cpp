#include "hollow_probe/report/junit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <pugixml.hpp>
#include <sstream>

namespace hollow_probe {
namespace {

/// Without what XML cannot hold.
std::string printable(std::string text) {
    std::erase_if(text,
                  [](char c) { return static_cast<unsigned char>(c) < 0x20 && c != '\n' && c != '\t'; });
    return text;
}

}  // namespace

std::string junit_xml(const std::string& name, const std::vector<SuiteResult>& results) {
    pugi::xml_document document;
    pugi::xml_node declaration = document.append_child(pugi::node_declaration);
    declaration.append_attribute("version") = "1.0";
    declaration.append_attribute("encoding") = "UTF-8";
    const auto count = [&](bool broken) {
        return static_cast<unsigned long long>(
            std::count_if(results.begin(), results.end(),
                          [&](const SuiteResult& r) { return !r.failure.empty() && r.broken == broken; }));
    };
    double seconds = 0.0;
    for (const SuiteResult& result : results) seconds += result.seconds;
    pugi::xml_node suites = document.append_child("testsuites");
    pugi::xml_node suite = suites.append_child("testsuite");
    for (pugi::xml_node node : {suites, suite}) {
        node.append_attribute("name") = printable(name).c_str();
        node.append_attribute("tests") = static_cast<unsigned long long>(results.size());
        node.append_attribute("failures") = count(false);
        node.append_attribute("errors") = count(true);
        node.append_attribute("time") = fmt::format("{:.3f}", seconds).c_str();
    }
    for (const SuiteResult& result : results) {
        pugi::xml_node one = suite.append_child("testcase");
        one.append_attribute("name") = printable(result.name).c_str();
        one.append_attribute("classname") = result.kind.c_str();
        one.append_attribute("time") = fmt::format("{:.3f}", result.seconds).c_str();
        if (!result.failure.empty()) {
            pugi::xml_node failure = one.append_child(result.broken ? "error" : "failure");
            failure.append_attribute("message") = printable(result.failure).c_str();
            failure.append_attribute("type") = result.broken ? "broken" : "wrong";
            failure.append_child(pugi::node_pcdata).set_value(printable(result.details).c_str());
        }
        std::string said;
        if (!result.file.empty()) said += "file: " + result.file + "\n";
        if (!result.note.empty()) said += result.note + "\n";
        if (!result.command.empty()) said += "reproduce: " + result.command + "\n";
        if (!said.empty())
            one.append_child("system-out").append_child(pugi::node_pcdata).set_value(printable(said).c_str());
    }
    std::ostringstream text;
    document.save(text, "  ");
    return text.str();
}

}  // namespace hollow_probe
