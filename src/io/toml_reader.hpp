// Reading TOML tables against the list of known keys, with a position in every message.
#pragma once

#include <fmt/format.h>

// The parser asserts, or tells the compiler to assume, what malformed text can break, and only then checks
// it: without either it reports the error as it should.
#pragma push_macro("NDEBUG")
#undef NDEBUG
#define TOML_ASSERT(expr) static_assert(true)
#define TOML_ENABLE_FORMATTERS 0
#define TOML_HEADER_ONLY 0  // compiled in toml_library.cpp
#include <toml++/toml.h>
#pragma pop_macro("NDEBUG")

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"
#include "hollow_probe/io/file_keys.hpp"
#include "io/faults.hpp"

namespace hollow_probe {

/// A parsed file. Throws InputError for text that is not TOML, with the place.
struct TomlFile {
    TomlFile(const std::string& text, std::string name);

    std::string name;
    toml::table root;
};

std::string read_toml_text(const std::string& path);

/// One table of a file. Creating it refuses unknown keys.
class TableReader {
  public:
    /// The root table. Its key `format` is looked at first: of a file of another kind nothing else would make
    /// sense.
    TableReader(const TomlFile& file, std::span<const FileKey> keys, std::string_view format);

    [[nodiscard]] bool has(std::string_view key) const { return table_->contains(key); }

    [[nodiscard]] double number(std::string_view key) const;
    [[nodiscard]] double number(std::string_view key, double standard) const;
    [[nodiscard]] double positive(std::string_view key) const;
    [[nodiscard]] std::int64_t integer(std::string_view key) const;
    [[nodiscard]] bool flag(std::string_view key, bool standard) const;
    [[nodiscard]] std::string text(std::string_view key) const;
    [[nodiscard]] std::string text(std::string_view key, std::string standard) const;
    /// One of the words given.
    [[nodiscard]] std::size_t choice(std::string_view key, std::span<const std::string_view> words) const;
    /// A list of strings, each given once unless they may repeat.
    [[nodiscard]] std::vector<std::string> texts(std::string_view key, bool may_repeat = false) const;
    template <int D>
    [[nodiscard]] Vec<D> vector(std::string_view key) const;
    template <int D>
    [[nodiscard]] std::vector<Vec<D>> vectors(std::string_view key) const;
    [[nodiscard]] bool is_text(std::string_view key) const;
    [[nodiscard]] bool is_table(std::string_view key) const;
    /// A list of numbers, at least one.
    [[nodiscard]] std::vector<double> numbers(std::string_view key) const;
    /// A table of numbers under keys of whatever name, in the order of the names.
    [[nodiscard]] std::vector<std::pair<std::string, double>> named_numbers(std::string_view key) const;
    /// Throws with the place of a key of such a table.
    [[noreturn]] void fail_in(std::string_view key, std::string_view name, const std::string& message) const;
    /// A list whose elements may be of several types: how many, and each; refuses what is no list.
    [[nodiscard]] std::size_t length(std::string_view key, const char* expected) const;
    /// Element `index` of a list, if it is a string.
    [[nodiscard]] std::optional<std::string> text_at(std::string_view key, std::size_t index) const;
    /// Element `index`, which must be a table; its known keys are those listed under `path`.
    [[nodiscard]] TableReader table_at(std::string_view key, std::size_t index, std::string path,
                                       const char* expected) const;

    /// `example` goes into the message where there is something else.
    [[nodiscard]] TableReader table(std::string_view key, std::string_view example = {}) const;
    /// The elements of an array of tables; empty when the key is not there.
    [[nodiscard]] std::vector<TableReader> tables(std::string_view key) const;

    /// Reads the elements of an array of tables, each with read(TableReader); what is wrong with one does not
    /// keep the others from being read.
    template <class Read>
    void each(std::string_view key, Faults& faults, Read read) const {
        std::size_t count = 0;
        faults.in([&] { count = table_count(key); });
        for (std::size_t i = 0; i < count; ++i) faults.in([&] { read(table_of(key, i)); });
    }
    /// The names in an array of tables, those of elements with something wrong among them.
    [[nodiscard]] std::vector<std::string> names_in(std::string_view key) const;
    /// … in one within a table that may have something wrong itself.
    [[nodiscard]] std::vector<std::string> names_in(std::string_view table, std::string_view key) const;

    /// The one key of those given that is there; refuses none and several.
    [[nodiscard]] std::string one_of(std::span<const std::string_view> names) const;

    /// Throws with the place of the key's value; of the table if there is no such key.
    [[noreturn]] void fail(std::string_view key, const std::string& message) const;
    /// … of element `index` of the key's list.
    [[noreturn]] void fail_at(std::string_view key, std::size_t index, const std::string& message) const;

    /// Calls make() and gives the place of `key` to any InvalidInput it throws.
    template <class Make>
    auto placed(std::string_view key, Make make) const {
        try {
            return make();
        } catch (const InvalidInput& error) {
            fail(key, error.what());
        }
    }

  private:
    TableReader(const TomlFile& file, std::span<const FileKey> keys, const toml::table& table,
                std::string path);

    void refuse_unknown_keys() const;
    [[nodiscard]] std::size_t table_count(std::string_view key) const;
    [[nodiscard]] TableReader table_of(std::string_view key, std::size_t index) const;
    [[nodiscard]] const toml::node& need(std::string_view key, const char* expected) const;
    [[nodiscard]] double number_of(const toml::node& node, const std::string& what) const;
    template <int D>
    [[nodiscard]] Vec<D> vector_of(const toml::node& node, const std::string& what) const;
    [[noreturn]] void fail_at(const toml::source_region& place, const std::string& message) const;

    const TomlFile* file_;
    std::span<const FileKey> keys_;
    const toml::table* table_;
    std::string path_;  // of this table, as in FileKey::path, with a dot at its end; empty for the root
};

/// The word nearest in spelling, if near enough to be a slip of the hand.
std::optional<std::string> nearest_word(std::string_view word, const std::vector<std::string>& known);

/// ", did you mean 'x'?" or nothing.
std::string suggestion(std::string_view word, const std::vector<std::string>& known);

}  // namespace hollow_probe
