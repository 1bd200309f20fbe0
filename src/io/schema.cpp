#include "hollow_probe/io/schema.hpp"

#include <cmath>
#include <map>

#include "hollow_probe/geometry/vec.hpp"
#include "hollow_probe/io/file_keys.hpp"
#include "io/json.hpp"

namespace hollow_probe {
namespace {

Json list_of(Json items) {
    return {{"type", "array"}, {"items", std::move(items)}};
}

Json numbers(int least, int most) {
    return {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", least}, {"maxItems", most}};
}

/// What a type of the tables of docs/formats.md means to a schema.
Json type_of(std::string_view type) {
    const Json vector = numbers(2, 3);
    const Json member = {{"$ref", "#/$defs/member"}};
    const std::map<std::string_view, Json> types = {
        {"string", {{"type", "string"}}},
        {"number", {{"type", "number"}}},
        {"integer", {{"type", "integer"}}},
        {"boolean", {{"type", "boolean"}}},
        {"vector", vector},
        {"list of strings", list_of({{"type", "string"}})},
        {"list of numbers", list_of({{"type", "number"}})},
        {"list of two numbers", numbers(2, 2)},
        {"list of vectors", list_of(vector)},
        {"list of members", list_of(member)},
        {"integer or string", {{"type", {"integer", "string"}}}},
        {"string or vector", {{"anyOf", {{{"type", "string"}}, vector}}}},
        {"table of figures", {{"type", "object"}, {"additionalProperties", {{"type", "number"}}}}}};
    const auto found = types.find(type);
    return found == types.end() ? Json{{"type", "number"}} : found->second;
}

/// What a number may be; those of a list each.
void limit(Json& schema, const FileKey& key) {
    Json& number = schema.value("type", Json()) == "array" ? schema["items"] : schema;
    if (std::isfinite(key.limits.least))
        number[key.limits.above ? "exclusiveMinimum" : "minimum"] = key.limits.least;
    if (std::isfinite(key.limits.most)) number["maximum"] = key.limits.most;
    if (!key.words.empty()) number["enum"] = std::vector<std::string>(key.words.begin(), key.words.end());
}

/// One key and what stands below it.
struct Key {
    const FileKey* own = nullptr;  // none for tables that only hold others
    bool repeats = false;          // an array of tables
    std::vector<std::pair<std::string, Key>> below = {};

    Key& at(const std::string& name) {
        for (auto& [known, key] : below) {
            if (known == name) return key;
        }
        return below.emplace_back(name, Key{}).second;
    }
};

Key tree_of(std::span<const FileKey> keys) {
    Key root;
    for (const FileKey& file_key : keys) {
        Key* key = &root;
        std::string_view rest = file_key.path;
        while (!rest.empty()) {
            const std::size_t dot = std::min(rest.find('.'), rest.size());
            std::string_view name = rest.substr(0, dot);
            rest = dot < rest.size() ? rest.substr(dot + 1) : std::string_view();
            const bool repeats = name.ends_with("[]");
            if (repeats) name.remove_suffix(2);
            key = &key->at(std::string(name));
            key->repeats = key->repeats || repeats;
        }
        key->own = &file_key;
    }
    return root;
}

Json object_of(const Key& key, bool with_required);

Json schema_of(const Key& key) {
    const bool is_members = key.own != nullptr && key.own->type == "list of members";
    Json schema;
    if (key.own != nullptr && !key.below.empty() && !is_members) {
        // A number, or a table with one set of keys out of several.
        Json number = type_of("number");
        limit(number, *key.own);
        schema = {{"anyOf", {number, object_of(key, false)}}};
    } else if (key.own != nullptr) {
        schema = type_of(key.own->type);  // what stands below a list of members is the member's
        if (!is_members) limit(schema, *key.own);
    } else {
        schema = object_of(key, true);
        if (key.repeats) schema = list_of(schema);
    }
    if (key.own != nullptr) {
        std::string words(key.own->meaning);
        if (!key.own->unit.empty()) words += " (" + std::string(key.own->unit) + ")";
        schema["description"] = words;
        const Json standard = Json::parse(key.own->standard, nullptr, false);
        if (!standard.is_discarded()) schema["default"] = standard;
    }
    return schema;
}

Json object_of(const Key& key, bool with_required) {
    Json properties = Json::object();
    Json required = Json::array();
    for (const auto& [name, below] : key.below) {
        properties[name] = schema_of(below);
        if (with_required && below.own != nullptr && below.own->standard == "required")
            required.push_back(name);
    }
    Json schema = {{"type", "object"}, {"properties", properties}, {"additionalProperties", false}};
    if (!required.empty()) schema["required"] = required;
    return schema;
}

std::span<const FileKey> keys_of(std::string_view name) {
    if (name == "level") return level_file_keys();
    if (name == "rig") return rig_file_keys();
    if (name == "drill") return drill_file_keys();
    if (name == "suite") return suite_file_keys();
    throw InvalidInput("there is no schema '" + std::string(name) + "', expected level, rig, drill or suite");
}

}  // namespace

std::vector<std::string_view> schema_names() {
    return {"level", "rig", "drill", "suite"};
}

std::string file_schema(std::string_view name) {
    Key root = tree_of(keys_of(name));
    Json schema = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                   {"title", "hollow-probe " + std::string(name) + " 1"}};
    const Json object = object_of(root, true);
    schema.update(object);
    schema["properties"]["format"]["const"] = "hollow-probe " + std::string(name) + " 1";
    if (name == "rig") {
        // A rig that extends another need not say again what that one does.
        schema["properties"]["body"].erase("required");
        schema["properties"]["probe"]["items"].erase("required");
        schema["properties"]["probe"]["items"]["required"] = {"name"};
        schema["properties"]["signal"]["items"]["required"] = {"name"};
        const Json member = object_of(root.at("signal").at("any"), true);
        schema["$defs"] = {{"member", {{"anyOf", {{{"type", "string"}}, member}}}}};
    }
    return schema.dump(2) + "\n";
}

}  // namespace hollow_probe
