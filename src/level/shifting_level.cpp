#include "hollow_probe/level/shifting_level.hpp"

namespace hollow_probe {

template <int D>
ShiftingLevel<D>::ShiftingLevel(const Level<D>& level)
    : original_(&level), level_(level), offsets_(level.solids().size(), Vec<D>::zero()) {
    for (std::uint32_t i = 0; i < level.solids().size(); ++i) {
        if (level.solids()[i].path) on_paths_.push_back(i);
    }
}

template <int D>
void ShiftingLevel<D>::place(std::uint32_t solid, const Vec<D>& offset) {
    if (offset == offsets_.at(solid)) return;
    if (boxes_.empty()) {
        for (std::uint32_t i = 0; i < level_.piece_count(); ++i) boxes_.push_back(level_.pieces_.bounds(i));
    }
    Solid<D>& moved = level_.solids_[solid];
    for (std::uint32_t i = moved.first_piece; i < moved.first_piece + moved.piece_count; ++i) {
        level_.pieces_.place(i, original_->pieces_, offset);
        boxes_[i] = level_.pieces_.bounds(i);
    }
    const std::vector<Vec<D>>& outline = original_->solids()[solid].outline;
    for (std::size_t i = 0; i < outline.size(); ++i) moved.outline[i] = outline[i] + offset;
    offsets_[solid] = offset;
    moved_ = true;
}

template <int D>
void ShiftingLevel<D>::at(double seconds) {
    for (const std::uint32_t solid : on_paths_) place(solid, level_.solids_[solid].path->at(seconds));
}

template <int D>
void ShiftingLevel<D>::refit() {
    if (!moved_) return;
    moved_ = false;
    level_.tree_.refit(boxes_);
    ++level_.shifts_;
    level_.bounds_ = {};
    for (const Bounds<D>& box : boxes_) level_.bounds_.grow(box);
}

template class ShiftingLevel<2>;
template class ShiftingLevel<3>;

}  // namespace hollow_probe
