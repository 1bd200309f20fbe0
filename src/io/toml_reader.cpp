#include "io/toml_reader.hpp"

#include <algorithm>
#include <numeric>
#include <set>
#include <sstream>

#include "hollow_probe/io/atomic_file.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t most_bytes = 64U << 20U;
constexpr std::size_t infinity_of_edits = static_cast<std::size_t>(-1);

std::string quoted(std::string_view key) {
    return "'" + std::string(key) + "'";
}

/// The type with its article: "a string", "an integer".
std::string a_type(const toml::node& node) {
    std::ostringstream out;
    out << node.type();
    const std::string name = out.str();
    return (std::string_view("aeiou").find(name.front()) == std::string_view::npos ? "a " : "an ") + name;
}

/// Letters changed, left out, put in, or swapped with their neighbour.
std::size_t edit_distance(std::string_view a, std::string_view b) {
    std::vector<std::size_t> before(b.size() + 1);  // the row before the last
    std::vector<std::size_t> last(b.size() + 1);
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), std::size_t{0});
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::swap(before, last);
        std::swap(last, row);
        row[0] = i;
        for (std::size_t k = 1; k <= b.size(); ++k) {
            const std::size_t change = last[k - 1] + (a[i - 1] == b[k - 1] ? 0 : 1);
            row[k] = std::min({change, last[k] + 1, row[k - 1] + 1});
            if (i > 1 && k > 1 && a[i - 1] == b[k - 2] && a[i - 2] == b[k - 1]) {
                row[k] = std::min(row[k], before[k - 2] + 1);
            }
        }
    }
    return row.back();
}

std::vector<std::string> names_of_elements(const toml::table& table, std::string_view key) {
    std::vector<std::string> names;
    const toml::array* list = table.get_as<toml::array>(key);
    for (std::size_t i = 0; list != nullptr && i < list->size(); ++i) {
        const toml::table* element = list->get(i)->as_table();
        const auto name = element != nullptr ? (*element)["name"].value<std::string>() : std::nullopt;
        if (name) names.push_back(*name);
    }
    return names;
}

}  // namespace

std::optional<std::string> nearest_word(std::string_view word, const std::vector<std::string>& known) {
    std::optional<std::string> best;
    std::size_t least = infinity_of_edits;
    for (const std::string& candidate : known) {
        const std::size_t distance = edit_distance(word, candidate);
        // Words that differ in more than half their letters are other words.
        if (distance < least && distance <= std::min(word.size(), candidate.size()) / 2) {
            least = distance;
            best = candidate;
        }
    }
    return best;
}

std::string suggestion(std::string_view word, const std::vector<std::string>& known) {
    const auto near = nearest_word(word, known);
    return near ? ", did you mean '" + *near + "'?" : "";
}

std::string read_toml_text(const std::string& path) {
    std::string text = read_file(path, most_bytes);
    const std::size_t zero = text.find('\0');
    if (zero != std::string::npos) {
        const auto line =
            1 + std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(zero), '\n');
        const std::size_t line_start = text.rfind('\n', zero) + 1;
        throw InputError(
            fmt::format("{}:{}:{}: is a binary file, expected TOML text", path, line, zero - line_start + 1));
    }
    return text;
}

TomlFile::TomlFile(const std::string& text, std::string file_name) : name(std::move(file_name)) {
    try {
        root = toml::parse(std::string_view(text), std::string_view(name));
    } catch (const toml::parse_error& error) {
        const auto& place = error.source().begin;
        throw InputError(fmt::format("{}:{}:{}: not valid TOML: {}", name, std::max<unsigned>(place.line, 1),
                                     std::max<unsigned>(place.column, 1), error.description()));
    }
}

TableReader::TableReader(const TomlFile& file, std::span<const FileKey> keys, std::string_view format)
    : file_(&file), keys_(keys), table_(&file.root) {
    if (has("format") || file.root.empty()) (void)choice("format", std::span(&format, 1));
    refuse_unknown_keys();
    (void)text("format");
}

TableReader::TableReader(const TomlFile& file, std::span<const FileKey> keys, const toml::table& table,
                         std::string path)
    : file_(&file), keys_(keys), table_(&table), path_(std::move(path)) {
    refuse_unknown_keys();
}

void TableReader::refuse_unknown_keys() const {
    std::set<std::string> known;
    for (const FileKey& key : keys_) {
        if (!key.path.starts_with(path_)) continue;
        const std::string_view rest = key.path.substr(path_.size());
        known.emplace(rest.substr(0, rest.find_first_of(".[")));
    }
    const std::vector<std::string> words(known.begin(), known.end());
    std::string expected;
    for (const std::string& word : words) expected += (expected.empty() ? "" : ", ") + word;
    Faults faults;
    for (const auto& [key, value] : *table_) {
        if (known.contains(std::string(key.str()))) continue;
        const std::string hint = suggestion(key.str(), words);
        faults.in([&, name = key] {
            fail_at(name.source(), fmt::format("unknown key '{}'{}", name.str(),
                                               hint.empty() ? ", expected one of " + expected : hint));
        });
    }
    faults.tell();
}

void TableReader::fail_at(const toml::source_region& place, const std::string& message) const {
    throw InputError(fmt::format("{}:{}:{}: {}", file_->name, std::max<unsigned>(place.begin.line, 1),
                                 std::max<unsigned>(place.begin.column, 1), message));
}

void TableReader::fail(std::string_view key, const std::string& message) const {
    const toml::node* node = table_->get(key);
    fail_at(node != nullptr ? node->source() : table_->source(), message);
}

void TableReader::fail_at(std::string_view key, std::size_t index, const std::string& message) const {
    const toml::array* list = table_->get_as<toml::array>(key);
    if (list == nullptr || index >= list->size()) fail(key, message);
    fail_at(list->get(index)->source(), message);
}

const toml::node& TableReader::need(std::string_view key, const char* expected) const {
    const toml::node* node = table_->get(key);
    if (node == nullptr) {
        const std::string where = path_.empty() ? "" : " in " + path_.substr(0, path_.size() - 1);
        fail(key, fmt::format("key '{}' is missing{}, expected {}", key, where, expected));
    }
    return *node;
}

double TableReader::number_of(const toml::node& node, const std::string& what) const {
    const auto value = node.value<double>();
    if (!value || !node.is_number())
        fail_at(node.source(), what + " is " + a_type(node) + ", expected a number");
    if (!std::isfinite(*value)) fail_at(node.source(), what + " is not finite, expected a finite number");
    return *value;
}

double TableReader::number(std::string_view key) const {
    return number_of(need(key, "a number"), quoted(key));
}

double TableReader::number(std::string_view key, double standard) const {
    return has(key) ? number(key) : standard;
}

double TableReader::positive(std::string_view key) const {
    const double value = number(key);
    if (value <= 0.0) fail(key, fmt::format("'{}' is {}, expected more than 0", key, value));
    return value;
}

std::int64_t TableReader::integer(std::string_view key) const {
    const toml::node& node = need(key, "an integer");
    if (!node.is_integer()) fail(key, quoted(key) + " is " + a_type(node) + ", expected an integer");
    return *node.value<std::int64_t>();
}

bool TableReader::flag(std::string_view key, bool standard) const {
    if (!has(key)) return standard;
    const toml::node& node = need(key, "true or false");
    if (!node.is_boolean()) fail(key, quoted(key) + " is " + a_type(node) + ", expected true or false");
    return *node.value<bool>();
}

std::string TableReader::text(std::string_view key) const {
    const toml::node& node = need(key, "a string");
    if (!node.is_string()) fail(key, quoted(key) + " is " + a_type(node) + ", expected a string");
    return *node.value<std::string>();
}

std::string TableReader::text(std::string_view key, std::string standard) const {
    return has(key) ? text(key) : std::move(standard);
}

bool TableReader::is_text(std::string_view key) const {
    const toml::node* node = table_->get(key);
    return node != nullptr && node->is_string();
}

bool TableReader::is_table(std::string_view key) const {
    const toml::node* node = table_->get(key);
    return node != nullptr && node->is_table();
}

std::size_t TableReader::length(std::string_view key, const char* expected) const {
    const toml::node& node = need(key, expected);
    const toml::array* list = node.as_array();
    if (list == nullptr) fail(key, quoted(key) + " is " + a_type(node) + ", expected " + expected);
    return list->size();
}

std::vector<double> TableReader::numbers(std::string_view key) const {
    std::vector<double> result;
    const std::size_t count = length(key, "a list of numbers");
    const toml::array& list = *table_->get_as<toml::array>(key);
    for (std::size_t i = 0; i < count; ++i)
        result.push_back(number_of(*list.get(i), fmt::format("element {} of '{}'", i + 1, key)));
    if (result.empty()) fail(key, quoted(key) + " is empty, expected at least one number");
    return result;
}

std::vector<std::pair<std::string, double>> TableReader::named_numbers(std::string_view key) const {
    const toml::table* const table = need(key, "a table").as_table();
    if (table == nullptr) fail(key, quoted(key) + " is " + a_type(*table_->get(key)) + ", expected a table");
    std::vector<std::pair<std::string, double>> result;
    for (const auto& [name, node] : *table)
        result.emplace_back(name.str(), number_of(node, quoted(name.str())));
    if (result.empty()) fail(key, quoted(key) + " is empty, expected at least one number");
    return result;
}

void TableReader::fail_in(std::string_view key, std::string_view name, const std::string& message) const {
    const toml::table* const table = table_->get_as<toml::table>(key);
    const toml::node* const node = table != nullptr ? table->get(name) : nullptr;
    if (node == nullptr) fail(key, message);
    fail_at(node->source(), message);
}

std::optional<std::string> TableReader::text_at(std::string_view key, std::size_t index) const {
    const toml::node& element = *table_->get_as<toml::array>(key)->get(index);
    if (!element.is_string()) return std::nullopt;
    return *element.value<std::string>();
}

TableReader TableReader::table_at(std::string_view key, std::size_t index, std::string path,
                                  const char* expected) const {
    const toml::node& element = *table_->get_as<toml::array>(key)->get(index);
    const toml::table* const table = element.as_table();
    if (table == nullptr) {
        fail_at(
            key, index,
            fmt::format("element {} of '{}' is {}, expected {}", index + 1, key, a_type(element), expected));
    }
    return TableReader(*file_, keys_, *table, std::move(path));
}

std::size_t TableReader::choice(std::string_view key, std::span<const std::string_view> words) const {
    const std::string given = text(key);
    const auto found = std::find(words.begin(), words.end(), given);
    if (found != words.end()) return static_cast<std::size_t>(found - words.begin());
    std::string expected;
    for (const std::string_view word : words) expected += (expected.empty() ? "" : ", ") + std::string(word);
    fail(key, fmt::format("'{}' is \"{}\", expected one of {}", key, given, expected));
}

std::vector<std::string> TableReader::texts(std::string_view key, bool may_repeat) const {
    const toml::node& node = need(key, "a list of strings");
    const toml::array* list = node.as_array();
    if (list == nullptr) fail(key, quoted(key) + " is " + a_type(node) + ", expected a list of strings");
    std::vector<std::string> result;
    for (std::size_t i = 0; i < list->size(); ++i) {
        const auto word = list->get(i)->value<std::string>();
        if (!word || !list->get(i)->is_string()) {
            fail_at(key, i,
                    fmt::format("element {} of '{}' is {}, expected a string", i + 1, key,
                                a_type(*list->get(i))));
        }
        if (!may_repeat && std::find(result.begin(), result.end(), *word) != result.end()) {
            fail_at(key, i, fmt::format("'{}' names \"{}\" twice", key, *word));
        }
        result.push_back(*word);
    }
    return result;
}

template <int D>
Vec<D> TableReader::vector_of(const toml::node& node, const std::string& what) const {
    const toml::array* list = node.as_array();
    if (list == nullptr || list->size() != D) {
        fail_at(node.source(),
                fmt::format("{} is {}, expected a list of {} numbers", what,
                            list == nullptr ? a_type(node) : fmt::format("a list of {}", list->size()), D));
    }
    Vec<D> result;
    for (int axis = 0; axis < D; ++axis) {
        result[axis] = number_of(*list->get(static_cast<std::size_t>(axis)),
                                 fmt::format("element {} of {}", axis + 1, what));
    }
    return result;
}

template <int D>
Vec<D> TableReader::vector(std::string_view key) const {
    return vector_of<D>(need(key, D == 2 ? "a list of 2 numbers" : "a list of 3 numbers"), quoted(key));
}

template <int D>
std::vector<Vec<D>> TableReader::vectors(std::string_view key) const {
    const toml::node& node = need(key, "a list of points");
    const toml::array* list = node.as_array();
    if (list == nullptr) fail(key, quoted(key) + " is " + a_type(node) + ", expected a list of points");
    std::vector<Vec<D>> result;
    for (std::size_t i = 0; i < list->size(); ++i) {
        result.push_back(vector_of<D>(*list->get(i), fmt::format("point {} of '{}'", i + 1, key)));
    }
    return result;
}

TableReader TableReader::table(std::string_view key, std::string_view example) const {
    const toml::node& node = need(key, "a table");
    const toml::table* table = node.as_table();
    if (table == nullptr) {
        std::string message = quoted(key) + " is " + a_type(node) + ", expected a table";
        if (!example.empty()) message += fmt::format(", e.g. {} = {}", key, example);
        fail(key, message);
    }
    return TableReader(*file_, keys_, *table, path_ + std::string(key) + ".");
}

std::size_t TableReader::table_count(std::string_view key) const {
    if (!has(key)) return 0;
    const toml::node& node = need(key, "tables");
    const toml::array* list = node.as_array();
    if (list == nullptr) {
        fail(key, fmt::format("'{}' is {}, expected tables headed [[{}{}]]", key, a_type(node), path_, key));
    }
    return list->size();
}

TableReader TableReader::table_of(std::string_view key, std::size_t index) const {
    const toml::node& element = *table_->get_as<toml::array>(key)->get(index);
    const toml::table* table = element.as_table();
    if (table == nullptr) {
        fail_at(key, index,
                fmt::format("element {} of '{}' is {}, expected tables headed [[{}{}]]", index + 1, key,
                            a_type(element), path_, key));
    }
    return TableReader(*file_, keys_, *table, path_ + std::string(key) + "[].");
}

std::vector<TableReader> TableReader::tables(std::string_view key) const {
    std::vector<TableReader> result;
    const std::size_t count = table_count(key);
    for (std::size_t i = 0; i < count; ++i) result.push_back(table_of(key, i));
    return result;
}

std::vector<std::string> TableReader::names_in(std::string_view key) const {
    return names_of_elements(*table_, key);
}

std::vector<std::string> TableReader::names_in(std::string_view table, std::string_view key) const {
    const toml::table* within = table_->get_as<toml::table>(table);
    return within != nullptr ? names_of_elements(*within, key) : std::vector<std::string>();
}

std::string TableReader::one_of(std::span<const std::string_view> names) const {
    std::string list;
    std::string found;
    for (const std::string_view name : names) {
        list += (list.empty() ? "" : ", ") + std::string(name);
        if (!has(name)) continue;
        if (!found.empty())
            fail(name, fmt::format("both '{}' and '{}' are given, expected only one", found, name));
        found = name;
    }
    if (found.empty()) fail("", "no shape is given, expected one of " + list);
    return found;
}

template Vec<2> TableReader::vector<2>(std::string_view) const;
template Vec<3> TableReader::vector<3>(std::string_view) const;
template std::vector<Vec<2>> TableReader::vectors<2>(std::string_view) const;
template std::vector<Vec<3>> TableReader::vectors<3>(std::string_view) const;

}  // namespace hollow_probe
