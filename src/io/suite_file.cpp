#include "hollow_probe/io/suite_file.hpp"

#include <filesystem>

#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

namespace fs = std::filesystem;

std::string file_of(const TableReader& table, std::string_view key, const std::string& suite) {
    return (fs::path(suite).parent_path() / table.text(key)).lexically_normal().string();
}

std::size_t count_of(const TableReader& table, std::string_view key, std::size_t standard,
                     std::int64_t least) {
    if (!table.has(key)) return standard;
    const std::int64_t count = table.integer(key);
    if (count < least) table.fail(key, fmt::format("'{}' is {}, expected {} or more", key, count, least));
    return static_cast<std::size_t>(count);
}

/// A number of poses, or a share as text.
Allowance allowance_of(const TableReader& table, std::string_view key) {
    if (!table.has(key)) return {};
    if (!table.is_text(key)) return {count_of(table, key, 0, 0)};
    const auto allowance = allowance_from(table.text(key));
    if (!allowance)
        table.fail(key, fmt::format("'{}' is \"{}\", expected a number of poses or a share like \"0.5 %\"",
                                    key, table.text(key)));
    return *allowance;
}

}  // namespace

Suite load_suite(const std::string& path) {
    const TomlFile file(read_toml_text(path), path);
    const TableReader root(file, suite_file_keys(), "hollow-probe suite 1");
    Suite suite;
    Faults faults;
    root.each("survey", faults, [&](const TableReader& table) {
        SuiteSurvey survey;
        survey.level = file_of(table, "level", path);
        survey.rig = file_of(table, "rig", path);
        const std::string names =
            fs::path(survey.rig).filename().string() + " on " + fs::path(survey.level).filename().string();
        survey.name = table.text("name", names);
        survey.allowed.missed = allowance_of(table, "missed");
        survey.allowed.falsely = allowance_of(table, "false");
        survey.allowed.claims = count_of(table, "claims", 0, 0);
        survey.headings = static_cast<int>(std::min<std::size_t>(count_of(table, "headings", 4, 1), 360));
        if (table.has("spacing")) survey.spacing = table.positive("spacing");
        if (table.has("stances")) survey.stances = table.texts("stances");
        survey.area = table.text("area", "");
        table.each("known", faults, [&](const TableReader& entry) {
            KnownFinding known;
            known.id = entry.text("id");
            known.reason = entry.text("reason");
            if (known.reason.empty()) entry.fail("reason", "'reason' is empty, expected why it is accepted");
            if (entry.has("measure")) known.measure = entry.positive("measure");
            known.mended = entry.flag("mended", false);
            survey.known.push_back(known);
        });
        suite.surveys.push_back(survey);
    });
    root.each("drill", faults, [&](const TableReader& table) {
        SuiteDrill drill;
        drill.file = file_of(table, "file", path);
        if (table.has("tick_rates")) drill.tick_rates = table.numbers("tick_rates");
        for (const double rate : drill.tick_rates) {
            if (rate <= 0.0) table.fail("tick_rates", "a tick rate is more than 0");
        }
        drill.phases = count_of(table, "phases", 1, 1);
        suite.drills.push_back(drill);
    });
    root.each("hunt", faults, [&](const TableReader& table) {
        SuiteHunt hunt;
        hunt.drill = file_of(table, "drill", path);
        hunt.seed = count_of(table, "seed", 0, 0);
        hunt.ticks = count_of(table, "ticks", hunt.ticks, 1);
        suite.hunts.push_back(hunt);
    });
    faults.tell();
    if (suite.surveys.empty() && suite.drills.empty() && suite.hunts.empty())
        root.fail("format", "the suite is empty, expected [[survey]], [[drill]] or [[hunt]]");
    return suite;
}

}  // namespace hollow_probe
