// The text of a rig file as it is changed: every state there was, and how it stands to the file.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/io/rig_file.hpp"

namespace hollow_probe {

/// Files of the bench are read whole up to so many bytes.
inline constexpr std::size_t most_live_bytes = std::size_t{64} << 20U;

/// Files stay the truth: a rig is changed by changing its text, and read from that anew.
template <int D>
class RigHistory {
  public:
    /// Throws InputError as load_rig() does.
    RigHistory(std::string path, const Level<D>& level);

    [[nodiscard]] const std::string& path() const { return path_; }
    [[nodiscard]] const std::string& text() const { return texts_[now_]; }
    [[nodiscard]] const Rig<D>& rig() const { return rig_; }
    [[nodiscard]] const std::string& in_file() const { return in_file_; }  // when it was last looked at
    [[nodiscard]] bool is_saved() const { return text() == in_file_; }
    [[nodiscard]] bool can_undo() const { return now_ > 0; }
    [[nodiscard]] bool can_redo() const { return now_ + 1 < texts_.size(); }

    /// A further state. Those of one `gesture` that follow each other are one; an empty gesture is one by
    /// itself. Throws InputError for a text that is no rig for the level, and leaves all as it was.
    void change(const std::string& text, const std::string& gesture);
    void undo();
    void redo();
    /// Reads the text again for another level; throws InputError where it is no rig for it.
    void read_for(const Level<D>& level);

    /// Writes the text to the file. Throws InputError where that has been changed by somebody else, to a rig
    /// or to none: that is a conflict then.
    void save();
    /// What became of the file since it was last looked at.
    enum class Outside { same, taken_over, conflict };
    /// A file that was changed while nothing was unsaved is taken over, as a further state; one that is no
    /// rig (half written, perhaps), or gone, is left alone until it is one.
    Outside look();
    /// In a conflict: the file's text as a further state (throws InputError where it is no rig), or this one,
    /// to be saved over it.
    void take_theirs();
    void keep_mine() { in_conflict_ = false; }
    [[nodiscard]] bool in_conflict() const { return in_conflict_; }

  private:
    [[nodiscard]] std::optional<std::string> text_there() const;  // none where it cannot be read
    void go_to(std::size_t state);

    std::string path_;
    const Level<D>* level_;
    std::vector<std::string> texts_;
    std::size_t now_ = 0;
    std::string gesture_;  // of the state now
    std::string in_file_;
    bool in_conflict_ = false;
    Rig<D> rig_;
};

extern template class RigHistory<2>;
extern template class RigHistory<3>;

}  // namespace hollow_probe
