#include "hollow_probe/io/rig_edit.hpp"

#include <algorithm>

#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

/// Text of a file by the lines and columns the parser tells.
class Editor {
  public:
    Editor(std::string text, std::string name) : text_(std::move(text)), name_(std::move(name)) {}

    std::string text() const { return text_; }

    void apply(const RigEdit& edit) {
        set(edit, edit.key, edit.value);
        for (const auto& [key, value] : edit.further) set(edit, key, value);
    }

  private:
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

    const toml::table* find_table(const toml::table& root, const RigEdit& edit) const {
        if (edit.table.empty()) return &root;
        const toml::array* const list = root.get_as<toml::array>(edit.table);
        for (std::size_t i = 0; list != nullptr && i < list->size(); ++i) {
            const toml::table* const table = list->get(i)->as_table();
            if (table != nullptr && (*table)["name"].value<std::string>() == edit.name) return table;
        }
        fail("has no " + edit.table + " '" + edit.name +
             "' of its own, expected the file that does: this one extends it");
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

    void set(const RigEdit& edit, const std::string& key, const std::string& value) {
        const TomlFile file(text_, name_);  // anew: earlier edits have moved things
        const toml::table& table = *find_table(file.root, edit);
        if (const toml::node* const node = node_at(table, key)) {
            const std::size_t begin = offset(node->source().begin);
            const std::size_t end = offset(node->source().end);
            if (!value.empty()) {
                text_.replace(begin, end - begin, value);
            } else {
                remove(begin, end);
            }
            return;
        }
        if (value.empty()) return;  // nothing to take out
        const bool is_part = key.find_first_of(".[") != std::string::npos;
        if (is_part && edit.whole_key.empty()) fail("has no '" + key + "' to change");
        add(table, is_part ? edit.whole_key + " = " + edit.whole_value : key + " = " + value, edit);
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
    void add(const toml::table& table, const std::string& line, const RigEdit& edit) {
        const toml::node* const mark = table.get(edit.table.empty() ? "dimensions" : "name");
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

std::string with_cure(const std::string& text, const std::string& name, const CauseReport& cure) {
    const auto is_editable = [](const CauseReport& change) { return !change.edit.key.empty(); };
    if (!is_editable(cure) || !std::all_of(cure.with.begin(), cure.with.end(), is_editable))
        throw InputError(name + ":1:1: the cure is no change of one rig file: " + cure.parameter + " " +
                         cure.needs);
    Editor editor(text, name);
    editor.apply(cure.edit);
    for (const CauseReport& further : cure.with) editor.apply(further.edit);
    return editor.text();
}

}  // namespace hollow_probe
