// The command line in plain calls, so that one source file alone knows the library that parses it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace hollow_probe::tool {

class Ranks;

/// One option of a command, or one of its files. Each call says one thing more about it and returns it again.
class Option {
  public:
    explicit Option(CLI::Option* option) : option_(option) {}

    Option required();
    /// What stands for its value in the help: "FILE".
    Option takes(const std::string& what);
    /// The help shows the value that it has without being given.
    Option with_default();
    Option positive();
    Option not_negative();
    Option within(int low, int high);
    Option within(double low, double high);
    Option one_of(const std::vector<std::string>& names);
    /// Values stand between commas.
    Option by_commas();
    /// How many values it takes.
    Option counts(int least, int most);
    /// Refused without the other.
    Option needs(Option other);
    /// Refused beside the other.
    Option excludes(Option other);

  private:
    CLI::Option* option_;
};

/// One command of the tool. Values are written to where they are bound: that must live until the command was
/// run.
class Command {
  public:
    Command(CLI::App* app, int* result, const Ranks& ranks) : app_(app), result_(result), ranks_(&ranks) {}

    /// "--name" for an option, "name" for a value that is told by its place.
    template <typename T>
    Option option(const std::string& name, T& value, const std::string& help);
    Option flag(const std::string& name, bool& value, const std::string& help);
    /// What it does; returns the exit code. Of several ranks the first alone does it …
    void runs(std::function<int()> what);
    /// … or all of them, sharing the work.
    void runs_on_all_ranks(std::function<int()> what);
    [[nodiscard]] const Ranks& ranks() const { return *ranks_; }

  private:
    CLI::App* app_;
    int* result_;
    const Ranks* ranks_;
};

extern template Option Command::option(const std::string&, std::string&, const std::string&);
extern template Option Command::option(const std::string&, int&, const std::string&);
extern template Option Command::option(const std::string&, double&, const std::string&);
extern template Option Command::option(const std::string&, std::uint64_t&, const std::string&);
extern template Option Command::option(const std::string&, std::optional<std::size_t>&, const std::string&);
extern template Option Command::option(const std::string&, std::vector<std::string>&, const std::string&);
extern template Option Command::option(const std::string&, std::vector<double>&, const std::string&);
extern template Option Command::option(const std::string&, std::vector<std::size_t>&, const std::string&);

/// All commands; each adds itself.
class Commands {
  public:
    Commands(CLI::App* app, int* result, const Ranks& ranks) : app_(app), result_(result), ranks_(&ranks) {}

    Command add(const std::string& name, const std::string& help);

  private:
    CLI::App* app_;
    int* result_;
    const Ranks* ranks_;
};

void add_survey_command(Commands& commands);
void add_merge_command(Commands& commands);
void add_draw_command(Commands& commands);
void add_level_command(Commands& commands);
void add_drill_command(Commands& commands);
void add_hunt_command(Commands& commands);
void add_gauge_command(Commands& commands);
void add_compare_command(Commands& commands);
void add_tune_command(Commands& commands);
void add_propose_command(Commands& commands);
void add_check_command(Commands& commands);
void add_demo_command(Commands& commands);
void add_schema_command(Commands& commands);
void add_live_command(Commands& commands);

/// Reads the command line and runs the command it names. Returns the exit code; for a command line that is
/// not understood, after it was said on standard error, bad_input. What a command throws passes through.
int run_command_line(int argc, char** argv, const Ranks& ranks);

}  // namespace hollow_probe::tool
