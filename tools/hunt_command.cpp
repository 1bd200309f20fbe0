// hollow-probe hunt: a search for inputs that break what is expected of a drill.
#include <fmt/format.h>

#include <memory>

#include "hollow_probe/io/atomic_file.hpp"
#include "hunting.hpp"
#include "parts.hpp"

namespace hollow_probe::tool {
namespace {

struct HuntArguments {
    HuntWanted wanted;
    std::string part;
    std::string into;
};

template <int D>
int make_part(const HuntArguments& arguments, const LoadedDrill<D>& loaded) {
    const HuntWanted& wanted = arguments.wanted;
    HuntPartFile part;
    part.drill = wanted.file;
    part.seed = wanted.common.seed;
    part.seeds = wanted.seeds;
    part.ticks = wanted.ticks;
    part.tick_rates = wanted.tick_rates;
    part.part = part_from(arguments.part);
    part.inputs = hunt_inputs<D>(wanted.file, loaded);
    part.build = build_name();
    for (const Drill<D>& drill : variants<D>(loaded.drill, wanted.tick_rates, 1))
        part.found.push_back(
            hunt_part<D>(*loaded.level, loaded.rig, drill, hunt_options(wanted), wanted.seeds, part.part));
    write_file(arguments.into, part_text(part));
    fmt::print("part {} of {} of hunts of {} written to {}\n", part.part.number + 1, part.part.of,
               file_name(wanted.file), arguments.into);
    return all_well;
}

}  // namespace

void add_hunt_command(Commands& commands) {
    auto arguments = std::make_shared<HuntArguments>();
    HuntWanted& wanted = arguments->wanted;
    Command command = commands.add(
        "hunt", "Search for inputs that break what is expected of a drill, or get to where it is to get");
    command.option("drill", wanted.file, "The drill file").required().takes("DRILL");
    command.option("--ticks", wanted.ticks, "How many ticks to play before giving up, with each seed")
        .positive()
        .with_default()
        .takes("N");
    command.option("--seeds", wanted.seeds, "Hunt with so many seeds, from --seed on, until one finds")
        .positive()
        .with_default()
        .takes("N");
    const Option seconds = command
                               .option("--seconds", wanted.seconds,
                                       "… or so many seconds: what is found by then depends on the machine")
                               .positive()
                               .takes("S");
    command
        .option("--tick-rates", wanted.tick_rates, "Hunt at each of these rates instead of the drill's own")
        .by_commas()
        .within(1.0, 10000.0)
        .takes("HZ,…");
    add_hunt_outputs(command, wanted);
    add_part_options(command, arguments->part, arguments->into, "hunts").excludes(seconds);
    add_common(command, wanted.common);
    share_work(command, wanted.common);
    command.runs_on_all_ranks([arguments] {
        const bool is_part = !arguments->part.empty();
        if (is_part) {
            check_part(arguments->part, arguments->wanted.common);
            if (!arguments->wanted.write.empty())
                throw InputError("--part: a part has no --write of its own, expected --write with merge");
            check_outputs({}, {arguments->into});
        } else {
            check_outputs(arguments->wanted.common, {hunt_target(arguments->wanted)});
        }
        DrillLoader loader;
        return std::visit(
            [&](const auto& loaded) {
                return is_part ? make_part(*arguments, loaded) : hunt_and_tell(arguments->wanted, loaded);
            },
            loader.load(arguments->wanted.file));
    });
}

}  // namespace hollow_probe::tool
