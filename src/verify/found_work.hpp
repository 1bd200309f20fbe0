// Results of a survey's work by what they are of: written down by a part, and found again by the whole.
#pragma once

#include <functional>
#include <mutex>
#include <optional>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "geometry/bytes.hpp"
#include "hollow_probe/verify/survey_part.hpp"

namespace hollow_probe {

enum class WorkKind : std::uint8_t { column, between, row, cause };

/// A column of a facing, what lies between it and the next along an axis, or a row of columns at a feature.
inline std::string work_key(WorkKind kind, std::size_t facing, std::size_t number, std::size_t axis = 0) {
    ByteWriter writer;
    writer(kind);
    writer(facing);
    writer(number);
    writer(axis);
    return std::move(writer.bytes);
}

/// Why a signal is wrong at a pose.
template <int D>
std::string cause_key(const SurveyPose<D>& pose, std::size_t signal) {
    ByteWriter writer;
    WorkKind kind = WorkKind::cause;
    writer(kind);
    std::uint16_t facing = pose.facing;
    writer(facing);
    writer(signal);
    Vec<D> anchor = pose.anchor;
    members(writer, anchor);
    return std::move(writer.bytes);
}

/// How closely a round looks: results are of that alone.
struct RoundSpec {
    double spacing = 0.0;
    double border_width = 0.0;
    std::uint64_t most_corners = ~std::uint64_t{0};  // all

    bool operator==(const RoundSpec&) const = default;
};

template <class Archive>
void members(Archive& archive, RoundSpec& spec) {
    archive(spec.spacing);
    archive(spec.border_width);
    archive(spec.most_corners);
}

/// What was found in one round.
struct FoundRound {
    RoundSpec spec;
    std::unordered_map<std::string, std::string> results;

    [[nodiscard]] const std::string* of(const std::string& key) const {
        const auto found = results.find(key);
        return found == results.end() ? nullptr : &found->second;
    }
};

struct SurveyParts::Found {
    std::vector<FoundRound> rounds;

    [[nodiscard]] const FoundRound* of(const RoundSpec& spec) const {
        for (const FoundRound& round : rounds) {
            if (round.spec == spec) return &round;
        }
        return nullptr;
    }
};

/// What a part writes down. Safe from any number of threads.
class WorkRecord {
  public:
    explicit WorkRecord(PartNumber part) : part_(part) {}

    /// `whole`: all parts do all of it, and each writes down a share; else what this one does is its own.
    void begin_round(const RoundSpec& spec, bool whole) {
        rounds_.push_back({spec, {}});
        whole_ = whole;
    }
    [[nodiscard]] bool is_share(std::size_t number) const {
        return !whole_ || number % part_.of == part_.number;
    }
    void put(std::string key, std::string result) {
        const std::lock_guard lock(mutex_);
        rounds_.back().results.emplace_back(std::move(key), std::move(result));
    }
    [[nodiscard]] std::string to_bytes() { return bytes_of(std::move(rounds_)); }

    struct Round {
        RoundSpec spec;
        std::vector<std::pair<std::string, std::string>> results;
    };

  private:
    PartNumber part_;
    bool whole_ = true;
    std::vector<Round> rounds_;
    std::mutex mutex_;
};

template <class Archive>
void members(Archive& archive, WorkRecord::Round& round) {
    members(archive, round.spec);
    members(archive, round.results);
}

}  // namespace hollow_probe
