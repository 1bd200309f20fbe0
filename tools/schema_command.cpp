// hollow-probe schema: the JSON Schemas of the files it reads, for editors.
#include <fmt/format.h>

#include "common.hpp"
#include "hollow_probe/io/schema.hpp"

namespace hollow_probe::tool {

void add_schema_command(Commands& commands) {
    auto name = std::make_shared<std::string>();
    Command command =
        commands.add("schema", "Print the JSON Schema of level, rig, drill or suite files, for editors");
    command.option("format", *name, "level, rig, drill or suite")
        .required()
        .one_of({"level", "rig", "drill", "suite"});
    command.runs([name] {
        fmt::print("{}", file_schema(*name));
        return all_well;
    });
}

}  // namespace hollow_probe::tool
