#include "report/live/rig_history.hpp"

#include "hollow_probe/io/atomic_file.hpp"

namespace hollow_probe {
namespace {

/// Of all states together; the oldest are forgotten beyond.
constexpr std::size_t most_states = 20'000;

}  // namespace

template <int D>
RigHistory<D>::RigHistory(std::string path, const Level<D>& level)
    : path_(std::move(path)),
      level_(&level),
      texts_{read_file(path_, most_live_bytes)},
      in_file_(texts_.front()),
      rig_(rig_from_toml<D>(texts_.front(), path_, level)) {}

template <int D>
void RigHistory<D>::change(const std::string& text, const std::string& gesture) {
    if (text == this->text()) return;
    Rig<D> rig = rig_from_toml<D>(text, path_, *level_);
    texts_.resize(now_ + 1);
    const bool goes_on = !gesture.empty() && gesture == gesture_ && now_ > 0;
    if (goes_on) {
        texts_.back() = text;
    } else {
        texts_.push_back(text);
        if (texts_.size() > most_states) texts_.erase(texts_.begin());
    }
    now_ = texts_.size() - 1;
    gesture_ = gesture;
    rig_ = std::move(rig);
}

template <int D>
void RigHistory<D>::go_to(std::size_t state) {
    rig_ = rig_from_toml<D>(texts_[state], path_, *level_);
    now_ = state;
    gesture_.clear();
}

template <int D>
void RigHistory<D>::undo() {
    if (can_undo()) go_to(now_ - 1);
}

template <int D>
void RigHistory<D>::redo() {
    if (can_redo()) go_to(now_ + 1);
}

template <int D>
void RigHistory<D>::read_for(const Level<D>& level) {
    rig_ = rig_from_toml<D>(text(), path_, level);
    level_ = &level;
}

template <int D>
std::optional<std::string> RigHistory<D>::text_there() const {
    try {
        return read_file(path_, most_live_bytes);
    } catch (const InputError&) {
        return std::nullopt;
    }
}

template <int D>
void RigHistory<D>::save() {
    (void)look();
    // What is there now, a rig or not, is somebody's work.
    if (const std::optional<std::string> there = text_there(); there && *there != in_file_) {
        in_file_ = *there;
        in_conflict_ = true;
    }
    if (in_conflict_)
        throw InputError(path_ +
                         ":1:1: the file was changed by somebody else, expected a choice of one of the two");
    write_file(path_, text());
    in_file_ = text();
    gesture_.clear();
}

template <int D>
typename RigHistory<D>::Outside RigHistory<D>::look() {
    const Outside as_it_was = in_conflict_ ? Outside::conflict : Outside::same;
    const std::optional<std::string> there = text_there();
    if (!there || *there == in_file_) return as_it_was;
    if (*there == text()) {
        in_file_ = *there;
        in_conflict_ = false;
        return Outside::same;
    }
    try {
        if (is_saved()) {
            change(*there, "");
            in_file_ = *there;
            return Outside::taken_over;
        }
        (void)rig_from_toml<D>(*there, path_, *level_);
    } catch (const std::exception&) {
        return as_it_was;  // half written, perhaps
    }
    in_file_ = *there;
    in_conflict_ = true;
    return Outside::conflict;
}

template <int D>
void RigHistory<D>::take_theirs() {
    change(in_file_, "");
    in_conflict_ = false;
}

template class RigHistory<2>;
template class RigHistory<3>;

}  // namespace hollow_probe
