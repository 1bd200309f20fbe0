// What is wrong with the parts of a file, gathered so that all of it is told at once.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/io/input_error.hpp"

namespace hollow_probe {

/// Example:
///
///     Faults faults;
///     faults.in([&] { intent = read_intent(root.table("intent")); });
///     root.each("probe", faults, [&](const TableReader& probe) { read_probe(probe); });
///     faults.tell();
class Faults {
  public:
    /// Reads one part; what is wrong with it is kept, and reading goes on.
    template <class Read>
    void in(Read read) {
        try {
            read();
        } catch (const InputError& error) {
            found_.emplace_back(error.what());
        }
    }

    [[nodiscard]] bool none() const { return found_.empty(); }

    /// Throws an InputError if anything is wrong: a line for each fault, in the order they were found; of
    /// very many the first ones, and how many more there are.
    void tell() const {
        constexpr std::size_t most_told = 40;
        if (found_.empty()) return;
        std::string all = found_.front();
        for (std::size_t i = 1; i < found_.size() && i < most_told; ++i) all += "\n" + found_[i];
        if (found_.size() > most_told)
            all += "\n… and in " + std::to_string(found_.size() - most_told) + " more places";
        throw InputError(all);
    }

  private:
    std::vector<std::string> found_;
};

}  // namespace hollow_probe
