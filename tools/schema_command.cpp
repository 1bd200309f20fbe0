// hollow-probe schema: the JSON Schemas of the files it reads, for editors.
#include <fmt/format.h>

#include "common.hpp"
#include "hollow_probe/io/schema.hpp"

namespace hollow_probe::tool {

void add_schema_command(CLI::App& app, int& result) {
    auto name = std::make_shared<std::string>();
    CLI::App* command = app.add_subcommand(
        "schema", "Print the JSON Schema of level, rig, drill or suite files, for editors");
    command->add_option("format", *name, "level, rig, drill or suite")
        ->required()
        ->check(CLI::IsMember({"level", "rig", "drill", "suite"}));
    command->callback([name, &result] {
        fmt::print("{}", file_schema(*name));
        result = all_well;
    });
}

}  // namespace hollow_probe::tool
