// Proven causes as bytes: see geometry/bytes.hpp. Only within one version of this library.
#pragma once

#include "geometry/bytes.hpp"
#include "verify/causes/causes.hpp"

namespace hollow_probe {

/// The key of that name in the tables of fields, which outlive everything. Throws InvalidInput where there is
/// none.
std::string_view lasting_key(const std::string& key);

template <class Archive>
void member_key(Archive& archive, std::string_view& key) {
    std::string text(key);
    members(archive, text);
    if constexpr (Archive::reads) key = lasting_key(text);
}

template <class Archive>
void members(Archive& archive, Group& group);

template <class Archive>
void members(Archive& archive, Member& member) {
    members(archive, member.name);
    members(archive, member.angle_degrees);
    members(archive, member.distance);
    members(archive, member.layers);
    members(archive, member.group);
}

template <class Archive>
void members(Archive& archive, Group& group) {
    for (std::vector<Member>* list : {&group.any, &group.all, &group.none, &group.at_least.of})
        members(archive, *list);
    archive(group.at_least.count);
}

template <class Archive>
void members(Archive& archive, FieldPlace& place) {
    archive(place.probe);
    archive(place.condition);
    archive(place.signal);
    member_key(archive, place.key);
    archive(place.part);
}

template <class Archive>
void members(Archive& archive, AsCast& change) {
    archive(change.of_probe);
}

template <class Archive>
void members(Archive& archive, AsSole& change) {
    archive(change.of_probe);
    archive(change.stance);
}

template <class Archive>
void members(Archive& archive, DropMember& change) {
    archive(change.signal);
    archive(change.list);
    archive(change.place);
}

template <class Archive>
void members(Archive& archive, GateBy& change) {
    archive(change.signal);
    archive(change.by);
}

template <class Archive>
void members(Archive& archive, ListName& change) {
    archive(change.of_probe);
    member_key(archive, change.key);
    members(archive, change.name);
    archive(change.listed);
}

template <class Archive>
void members(Archive& archive, MoveEnd& change) {
    archive(change.of_probe);
    archive(change.amount);
}

template <class Archive, int D>
void members(Archive& archive, MoveStart<D>& change) {
    archive(change.of_probe);
    members(archive, change.by);
    archive(change.amount);
}

template <class Archive>
void members(Archive& archive, Narrow& change) {
    archive(change.of_probe);
    archive(change.amount);
}

template <class Archive>
void members(Archive& archive, OtherGroup& change) {
    archive(change.signal);
    archive(change.to_any);
}

template <class Archive>
void members(Archive&, ReadAfter&) {}

template <class Archive>
void members(Archive& archive, SetChoice& change) {
    members(archive, change.place);
    members(archive, change.to);
}

template <class Archive>
void members(Archive& archive, SetNumber& change) {
    members(archive, change.place);
    archive(change.amount);
}

template <class Archive>
void members(Archive& archive, SetRole& change) {
    archive(change.of_probe);
    archive(change.solid);
    archive(change.met);
}

template <class Archive>
void members(Archive& archive, StartBack& change) {
    archive(change.of_probe);
    archive(change.amount);
}

template <class Archive, int D>
void members(Archive& archive, ProvenCause<D>& cause) {
    archive(cause.kind);
    members(archive, cause.change);
    archive(cause.by);
    archive(cause.rank);
    members(archive, cause.with);
}

template <class Archive, int D>
void members(Archive& archive, Explanation<D>& explanation) {
    members(archive, explanation.causes);
    archive(explanation.solid);
}

}  // namespace hollow_probe
