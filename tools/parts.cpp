#include "parts.hpp"

#include <fmt/format.h>

#include <charconv>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/level/content_hash.hpp"

namespace hollow_probe::tool {

std::string build_name() {
    constexpr std::size_t most_bytes = std::size_t{1} << 30U;
    try {
        return content_hash(read_file("/proc/self/exe", most_bytes));
    } catch (const InputError&) {
        return {};
    }
}

PartNumber part_from(const std::string& text) {
    constexpr std::size_t most = 100'000;
    std::size_t number = 0;
    std::size_t of = 0;
    const char* const end = text.data() + text.size();
    const auto [slash, wrong] = std::from_chars(text.data(), end, number);
    const bool goes_on = wrong == std::errc() && slash != end && *slash == '/';
    const auto last = goes_on ? std::from_chars(slash + 1, end, of) : std::from_chars_result{end, wrong};
    if (!goes_on || last.ec != std::errc() || last.ptr != end || number < 1 || number > of || of > most)
        throw InputError(
            fmt::format("--part: '{}' is not understood, expected I/N, the I-th of N parts: from "
                        "1/N to N/N, N at most {}",
                        text, most));
    return {number - 1, of};
}

Option add_part_options(Command& command, std::string& part, std::string& into, const std::string& of) {
    Option number = command
                        .option("--part", part,
                                "Make the I-th of N parts of " + of + " alone; merge makes the whole of them")
                        .takes("I/N");
    Option file = command.option("--into", into, "… and write it to this file").takes("FILE");
    number.needs(file);
    file.needs(number);
    return number;
}

void check_part(const std::string& part, const CommonOptions& common) {
    (void)part_from(part);
    if (common.sharing) throw InputError("--part: ranks share the whole, expected no --part under mpirun");
    const std::pair<const char*, const std::string*> whole[] = {
        {"--json", &common.json}, {"--figure", &common.figure}, {"--html", &common.html}};
    for (const auto& [name, value] : whole) {
        if (!value->empty())
            throw InputError(
                fmt::format("--part: a part has no {0} of its own, expected {0} with merge", name));
    }
}

template <int D>
std::string hunt_inputs(const std::string& drill_file, const LoadedDrill<D>& loaded) {
    constexpr std::size_t most_bytes = std::size_t{64} << 20U;
    return content_hash(survey_inputs<D>(*loaded.level, loaded.rig, SurveyOptions()) +
                        read_file(drill_file, most_bytes));
}

template std::string hunt_inputs<2>(const std::string&, const LoadedDrill<2>&);
template std::string hunt_inputs<3>(const std::string&, const LoadedDrill<3>&);

}  // namespace hollow_probe::tool
