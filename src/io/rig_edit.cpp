#include "hollow_probe/io/rig_edit.hpp"

#include <algorithm>
#include <filesystem>
#include <sstream>

#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

/// Text of a file by the lines and columns the parser tells.
class Editor {
  public:
    Editor(std::string text, std::string name) : text_(std::move(text)), name_(std::move(name)) {}

    std::string text() const { return text_; }

    void apply(const FieldChange& change) {
        if (table_of(TomlFile(text_, name_).root, change) == nullptr) take_over(change);
        const TomlFile file(text_, name_);  // anew: earlier changes have moved things
        const toml::table& table = *find_table(file.root, change);
        if (const toml::node* const node = node_at(table, change.key)) {
            if (is_dotted(*node) && !change.then.empty()) {
                apply_by_parts(change, *node->as_table());
                return;
            }
            const std::size_t begin = offset(node->source().begin);
            const std::size_t end = offset(node->source().end);
            if (change.then.empty()) {
                remove(begin, end);
            } else {
                text_.replace(begin, end - begin, change.then);
            }
            return;
        }
        if (change.then.empty()) return;  // nothing to take out
        if (change.whole_key.empty()) {
            add(table, change.key + " = " + change.then, change);
        } else if (const toml::node* const whole = node_at(table, change.whole_key)) {
            if (has_heading(*whole)) {
                add_below_heading(*whole,
                                  change.key.substr(change.whole_key.size() + 1) + " = " + change.then);
                return;
            }
            if (is_dotted(*whole)) {
                add(table, change.key + " = " + change.then, change);
                return;
            }
            // Written in another way: a box as a hull, a member without conditions.
            const std::size_t begin = offset(whole->source().begin);
            text_.replace(begin, offset(whole->source().end) - begin, change.whole_then);
        } else {
            add(table, change.whole_key + " = " + change.whole_then, change);
        }
    }

    /// The name of a block; of a reflex without one its signal and what is done.
    static std::string name_in(const toml::table& block, const std::string& table) {
        const auto text = [&](const char* key) { return block[key].value_or(std::string()); };
        return table == "reflex" && !block.contains("name") ? text("on") + " " + text("do") : text("name");
    }

    static const toml::table* table_of(const toml::table& root, const FieldChange& change) {
        if (change.table.empty()) return &root;
        if (change.table == intent) return root.get_as<toml::table>(intent);
        const toml::array* const list = root.get_as<toml::array>(change.table);
        for (std::size_t i = 0; list != nullptr && i < list->size(); ++i) {
            const toml::table* const table = list->get(i)->as_table();
            if (table != nullptr && name_in(*table, change.table) == change.name) return table;
        }
        return nullptr;
    }

    /// The node a key names within a table: "accept.angle[1]", "any[0].angle[1]".
    static const toml::node* node_at(const toml::table& table, const std::string& key) {
        const toml::node* node = &table;
        for (std::size_t at = 0; at < key.size() && node != nullptr;) {
            if (key[at] == '[') {
                const std::size_t end = key.find(']', at);
                const toml::array* const list = node->as_array();
                const std::size_t index = std::stoul(key.substr(at + 1, end - at - 1));
                node = list != nullptr && index < list->size() ? list->get(index) : nullptr;
                at = end + 1;
            } else {
                if (key[at] == '.') ++at;
                const std::size_t end = std::min(key.find_first_of(".[", at), key.size());
                const toml::table* const inner = node->as_table();
                node = inner != nullptr ? inner->get(key.substr(at, end - at)) : nullptr;
                at = end;
            }
        }
        return node;
    }

    /// Of a table that is written out, key by key, each key by itself.
    void apply_by_parts(const FieldChange& change, const toml::table& there) {
        const std::string then = "then = " + change.then;
        const TomlFile file(then, name_);
        const toml::table* const wanted = file.root.get_as<toml::table>("then");
        if (wanted == nullptr)
            fail("'" + change.key + "' is a table here, and is to be none: change it there");
        const Editor words(then, name_);
        std::vector<FieldChange> parts;
        const auto part = [&](const toml::key& key, const std::string& text) {
            parts.push_back({change.table, change.name, change.key + "." + std::string(key.str()), "", text,
                             change.key, change.then});
        };
        for (const auto& [key, value] : there) {
            if (!wanted->contains(key.str())) part(key, "");
        }
        for (const auto& [key, value] : *wanted) {
            const std::size_t begin = words.offset(value.source().begin);
            part(key, then.substr(begin, words.offset(value.source().end) - begin));
        }
        for (const FieldChange& each : parts) apply(each);
    }

    /// Puts a block below the last of its table, or at the end where there is none.
    void add_block(const std::string& table, const std::string& block) {
        const TomlFile file(text_, name_);
        const toml::array* const list = file.root.get_as<toml::array>(table);
        std::size_t at = text_.size();
        if (list != nullptr && !list->empty()) {
            const std::size_t line = list->back().source().begin.line;
            at = line_start(line) + block_at(text_, line, table).size();
        }
        if (at > text_.size()) at = text_.size();
        if (at > 0 && text_[at - 1] != '\n') text_.insert(at++, 1, '\n');
        text_.insert(at, block);
    }

    /// Takes a block out, with the comments that stand right above it.
    void remove_block(const std::string& table, const std::string& which) {
        const TomlFile file(text_, name_);
        const toml::table* const found = table_of(file.root, {table, which, "", "", ""});
        if (found == nullptr) not_here(table, which);
        const std::size_t line = found->source().begin.line;
        std::size_t begin = line_start(line);
        const std::size_t end = begin + block_at(text_, line, table).size();
        while (begin > 0) {
            const std::size_t above = begin < 2 ? 0 : text_.rfind('\n', begin - 2) + 1;
            const std::size_t first = text_.find_first_not_of(" \t", above);
            if (text_[first] != '#') break;
            begin = above;
        }
        // One blank line is left between its neighbours.
        const bool blank_above = begin >= 2 && text_[begin - 1] == '\n' && text_[begin - 2] == '\n';
        std::size_t next = std::min(end, text_.size());
        if (blank_above && next < text_.size() && text_[next] == '\n') ++next;
        text_.erase(begin, next - begin);
    }

    /// Gives a probe or signal another name, wherever it is named.
    void rename(const std::string& table, const std::string& which, const std::string& to) {
        const TomlFile file(text_, name_);
        const toml::table* const found = table_of(file.root, {table, which, "", "", ""});
        if (found == nullptr) not_here(table, which);
        std::vector<toml::source_region> places = {found->get("name")->source()};
        if (const toml::array* const signals = file.root.get_as<toml::array>("signal")) {
            for (const toml::node& signal : *signals) {
                for (const auto& [key, value] : *signal.as_table()) {
                    if (key == "any" || key == "all" || key == "none" || key == "at_least" || key == "gives")
                        find_text(value, which, places);
                }
            }
        }
        if (const toml::array* const reflexes = file.root.get_as<toml::array>("reflex");
            reflexes && table == "signal") {
            for (const toml::node& reflex : *reflexes) {
                if (const toml::node* const on = reflex.as_table()->get("on")) find_text(*on, which, places);
            }
        }
        std::vector<std::pair<std::size_t, std::size_t>> spans;
        spans.reserve(places.size());
        for (const toml::source_region& place : places)
            spans.emplace_back(offset(place.begin), offset(place.end));
        std::sort(spans.rbegin(), spans.rend());  // from the end, so that places stay
        for (const auto& [begin, end] : spans) text_.replace(begin, end - begin, quoted_text(to));
    }

  private:
    static constexpr const char* intent = "intent";

    [[noreturn]] void not_here(const std::string& table, const std::string& which) const {
        fail(table + " '" + which + "' does not stand in this file, expected one that does: change it there");
    }

    [[nodiscard]] std::size_t line_start(std::size_t line) const {
        std::size_t here = 0;
        for (std::size_t number = 1; number < line; ++number) here = text_.find('\n', here) + 1;
        return here;
    }

    [[nodiscard]] bool has_heading(const toml::node& node) const {
        const toml::table* const table = node.as_table();
        return table != nullptr && !table->is_inline() && text_[offset(table->source().begin)] == '[';
    }

    /// `forgive.late = 0.1`: a table that only its keys name.
    [[nodiscard]] static bool is_dotted(const toml::node& node) {
        const toml::table* const table = node.as_table();
        return table != nullptr && !table->is_inline();
    }

    void add_below_heading(const toml::node& table, const std::string& line) {
        std::size_t next = text_.find('\n', offset(table.source().begin));
        if (next == std::string::npos) {
            text_ += '\n';
            next = text_.size() - 1;
        }
        text_.insert(next + 1, line + '\n');
    }

    /// Where a text stands in lists and tables.
    static void find_text(const toml::node& node, const std::string& text,
                          std::vector<toml::source_region>& places) {
        if (node.value<std::string>() == text) places.push_back(node.source());
        if (const toml::array* const list = node.as_array()) {
            for (const toml::node& one : *list) find_text(one, text, places);
        }
        if (const toml::table* const table = node.as_table()) {
            for (const auto& [key, one] : *table) {
                if (key != "layers" && key != "value") find_text(one, text, places);
            }
        }
    }

    [[noreturn]] void fail(const std::string& why) const { throw InputError(name_ + ":1:1: " + why); }

    /// The bytes from a place on; columns count characters, not bytes.
    std::size_t offset(const toml::source_position& at) const {
        std::size_t here = 0;
        for (std::uint32_t line = 1; line < at.line; ++line) here = text_.find('\n', here) + 1;
        for (std::uint32_t column = 1; column < at.column; ++column) {
            ++here;
            while (here < text_.size() && (static_cast<unsigned char>(text_[here]) & 0xC0U) == 0x80U) ++here;
        }
        return here;
    }

    const toml::table* find_table(const toml::table& root, const FieldChange& change) const {
        if (const toml::table* const table = table_of(root, change)) return table;
        fail("has no " + change.table + " '" + change.name + "', nor has a file that it extends");
    }

    /// Adds the table a change is about as it stands in a file this one extends: one of that name replaces
    /// it.
    void take_over(const FieldChange& change) {
        constexpr int deepest = 16;
        if (change.table == intent) {
            // What a file gives of the intent is added to what it extends.
            if (!text_.empty() && text_.back() != '\n') text_ += '\n';
            text_ += "\n[intent]\n";
            return;
        }
        namespace fs = std::filesystem;
        std::string name = name_;
        std::string text = text_;
        for (int depth = 0; depth < deepest; ++depth) {
            const auto parent = TomlFile(text, name).root["extends"].value<std::string>();
            if (!parent) return;
            name = (fs::path(name).parent_path() / *parent).string();
            text = read_toml_text(name);
            const TomlFile file(text, name);
            const toml::table* const table = table_of(file.root, change);
            if (table == nullptr) continue;
            if (!text_.empty() && text_.back() != '\n') text_ += '\n';
            text_ += '\n' + block_at(text, table->source().begin.line, change.table);
            return;
        }
    }

    /// The lines of one element of an array of tables, from its heading on, with the tables within it.
    std::string block_at(const std::string& text, std::size_t first_line, const std::string& table) const {
        std::istringstream lines(text);
        std::string line;
        std::string block;
        std::string waiting;  // blank lines and comments: they belong to what comes next
        for (std::size_t number = 1; std::getline(lines, line); ++number) {
            if (number < first_line) continue;
            const std::size_t start = line.find_first_not_of(" \t");
            const std::string_view rest =
                start == std::string::npos ? std::string_view() : std::string_view(line).substr(start);
            const bool heading = rest.starts_with('[');
            if (number == first_line && !heading)
                fail(table + " stands in a list of another file, expected tables headed [[" + table + "]]");
            const bool within = rest.starts_with("[" + table + ".") || rest.starts_with("[[" + table + ".");
            if (heading && number > first_line && !within) break;
            waiting += line + '\n';
            if (rest.empty() || rest.starts_with('#')) continue;
            block += waiting;
            waiting.clear();
        }
        return block;
    }

    /// Takes a whole line out; of an inline table the key and its comma.
    void remove(std::size_t begin, std::size_t end) {
        const std::size_t line = text_.rfind('\n', begin) + 1;
        std::size_t next = text_.find('\n', end);
        next = next == std::string::npos ? text_.size() : next + 1;
        const std::string before = text_.substr(line, begin - line);
        if (before.find_first_of("{[") == std::string::npos) {
            text_.erase(line, next - line);
            return;
        }
        // `, key = value` or `key = value, `
        const std::size_t comma = text_.find_last_of(",{", begin);
        if (comma != std::string::npos && comma >= line && text_[comma] == ',') {
            text_.erase(comma, end - comma);
        } else {
            const std::size_t start = text_.find_first_not_of(' ', comma + 1);
            const std::size_t after = text_.find_first_not_of(", ", end);
            text_.erase(start, after - start);
        }
    }

    /// Puts a line below the table's name, indented as that is; in the root below `dimensions`.
    void add(const toml::table& table, const std::string& line, const FieldChange& change) {
        if (change.table == intent && has_heading(table)) {
            add_below_heading(table, line);
            return;
        }
        if (change.table == intent)
            fail("the intent is not headed [intent], expected that where it is changed");
        const char* const first = change.table.empty()       ? "dimensions"
                                  : change.table == "reflex" ? "do"
                                                             : "name";
        const toml::node* const mark = table.get(first);
        const std::size_t begin = offset(mark->source().begin);
        const std::size_t start = text_.rfind('\n', begin) + 1;
        const std::size_t indent = text_.find_first_not_of(" \t", start) - start;
        std::size_t next = text_.find('\n', begin);
        const bool last = next == std::string::npos;
        next = last ? text_.size() : next + 1;
        text_.insert(next, (last ? "\n" : "") + text_.substr(start, indent) + line + (last ? "" : "\n"));
    }

    std::string text_;
    std::string name_;
};

}  // namespace

std::string with_changes(const std::string& text, const std::string& name,
                         const std::vector<FieldChange>& changes) {
    if (changes.empty()) throw InputError(name + ":1:1: there is nothing to change in it");
    Editor editor(text, name);
    for (const FieldChange& change : changes) editor.apply(change);
    return editor.text();
}

std::string with_block(const std::string& text, const std::string& name, const std::string& table,
                       const std::string& block) {
    Editor editor(text, name);
    editor.add_block(table, block);
    return editor.text();
}

std::string without_block(const std::string& text, const std::string& name, const std::string& table,
                          const std::string& which) {
    Editor editor(text, name);
    editor.remove_block(table, which);
    return editor.text();
}

std::string renamed_in(const std::string& text, const std::string& name, const std::string& table,
                       const std::string& which, const std::string& to) {
    Editor editor(text, name);
    editor.rename(table, which, to);
    return editor.text();
}

std::pair<std::size_t, std::size_t> place_of_change(const std::string& text, const std::string& name,
                                                    const FieldChange& change) {
    const TomlFile file(text, name);
    const toml::table* const table = Editor::table_of(file.root, change);
    if (table == nullptr) return {1, 1};
    const toml::node* node = change.key.empty() ? nullptr : Editor::node_at(*table, change.key);
    if (node == nullptr) node = table->get("name");
    if (node == nullptr) return {1, 1};
    return {node->source().begin.line, node->source().begin.column};
}

std::string extended_from(const std::string& text, const std::string& name, const std::string& to) {
    namespace fs = std::filesystem;
    const TomlFile file(text, name);
    const auto parent = file.root["extends"].value<std::string>();
    if (!parent || fs::path(*parent).is_absolute()) return text;
    const auto folder_of = [](const std::string& path) {
        return fs::weakly_canonical(fs::absolute(path).parent_path());
    };
    if (folder_of(name) == folder_of(to)) return text;
    const fs::path there = (folder_of(name) / *parent).lexically_relative(folder_of(to));
    return with_changes(text, name, {{"", "", "extends", "", quoted_text(there.generic_string())}});
}

}  // namespace hollow_probe
