// Writing a drill with other cues, every other letter of the author's file kept.
#include <filesystem>

#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/rig/differences.hpp"
#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

namespace fs = std::filesystem;

bool is_header(const std::string& line) {
    return line.find_first_not_of(" \t") != std::string::npos && line[line.find_first_not_of(" \t")] == '[';
}

std::string without_spaces(const std::string& line) {
    std::string result;
    for (const char c : line) {
        if (c == '#') break;
        if (c != ' ' && c != '\t' && c != '\r') result += c;
    }
    return result;
}

template <int D>
std::string array_text(const Vec<D>& v) {
    std::string text = "[";
    for (int axis = 0; axis < D; ++axis)
        text += fmt::format("{}{}", axis > 0 ? ", " : "", v[axis] + 0.0);  // no -0
    return text + "]";
}

template <int D>
std::string cue_text(const Cue<D>& cue) {
    std::string text = fmt::format("\n[[cue]]\nat = {}\n", cue.at);
    if (cue.drive) text += "drive = " + array_text<D>(*cue.drive) + "\n";
    if (cue.heading) text += "heading = " + array_text<D>(*cue.heading) + "\n";
    if (!cue.press.empty()) text += "press = " + quoted_text(cue.press) + "\n";
    if (!cue.stance.empty()) text += "stance = " + quoted_text(cue.stance) + "\n";
    return text;
}

/// A line `key = value` with another value; what stands after it, a comment, is kept.
std::string with_value(const std::string& line, const std::string& value) {
    const std::size_t begin = line.find_first_not_of(" \t", line.find('=') + 1);
    std::size_t end = 0;
    if (line[begin] == '"' || line[begin] == '\'') {
        end = line.find(line[begin], begin + 1);
        end = end == std::string::npos ? line.size() : end + 1;
    } else {
        end = std::min(line.find_first_of(" \t#\r", begin), line.size());
    }
    return line.substr(0, begin) + value + line.substr(end);
}

/// A file named in the author's, seen from the folder the new one is kept in.
std::string seen_from(const std::string& folder, const std::string& named) {
    const fs::path to = fs::weakly_canonical(named);
    const fs::path from = fs::weakly_canonical(folder.empty() ? "." : folder);
    return to.lexically_relative(from).generic_string();
}

}  // namespace

template <int D>
std::string with_cues(const std::string& text, const std::string& name, const std::string& folder,
                      const Drill<D>& drill, const std::string& comment) {
    const TomlFile file(text, name);
    const TableReader root(file, drill_file_keys(), "hollow-probe drill 1");
    std::string kept;
    bool in_root = true;
    bool in_cue = false;
    for (std::size_t begin = 0; begin < text.size();) {
        const std::size_t end = std::min(text.find('\n', begin), text.size());
        std::string line = text.substr(begin, end - begin);
        begin = end + 1;
        const std::string bare = without_spaces(line);
        if (is_header(line)) {
            in_root = false;
            in_cue = bare == "[[cue]]";
        }
        if (in_cue) continue;
        for (const char* key : {"level", "rig"}) {
            const std::string start = std::string(key) + "=";
            const fs::path named = fs::path(name).parent_path() / root.text(key);
            if (in_root && bare.starts_with(start))
                line = with_value(line, quoted_text(seen_from(folder, named.string())));
        }
        if (in_root && bare.starts_with("seconds=")) {
            line = with_value(line, fmt::format("{}", drill.seconds));
            if (!root.has("tick_rate") && drill.tick_rate != Drill<D>{}.tick_rate)
                line += fmt::format("\ntick_rate = {}", drill.tick_rate);
        }
        if (in_root && bare.starts_with("tick_rate="))
            line = with_value(line, fmt::format("{}", drill.tick_rate));
        kept += line + "\n";
    }
    while (kept.ends_with("\n\n")) kept.pop_back();
    kept += comment;
    for (const Cue<D>& cue : drill.cues) kept += cue_text(cue);
    return kept;
}

template std::string with_cues<2>(const std::string&, const std::string&, const std::string&, const Drill<2>&,
                                  const std::string&);
template std::string with_cues<3>(const std::string&, const std::string&, const std::string&, const Drill<3>&,
                                  const std::string&);

}  // namespace hollow_probe
