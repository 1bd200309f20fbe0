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
    pugi::xml_node suite = document.append_child("testsuites").append_child("testsuite");
    double seconds = 0.0;
    for (const SuiteResult& result : results) seconds += result.seconds;
    suite.append_attribute("name") = printable(name).c_str();
    suite.append_attribute("tests") = static_cast<unsigned long long>(results.size());
    suite.append_attribute("failures") = static_cast<unsigned long long>(std::count_if(
        results.begin(), results.end(), [](const SuiteResult& r) { return !r.failure.empty(); }));
    suite.append_attribute("time") = fmt::format("{:.3f}", seconds).c_str();
    for (const SuiteResult& result : results) {
        pugi::xml_node one = suite.append_child("testcase");
        one.append_attribute("classname") = result.kind.c_str();
        one.append_attribute("name") = printable(result.name).c_str();
        one.append_attribute("time") = fmt::format("{:.3f}", result.seconds).c_str();
        if (result.failure.empty()) continue;
        pugi::xml_node failure = one.append_child("failure");
        failure.append_attribute("message") = printable(result.failure).c_str();
        failure.append_child(pugi::node_pcdata).set_value(printable(result.details).c_str());
    }
    std::ostringstream text;
    document.save(text, "  ");
    return text.str();
}

}  // namespace hollow_probe
