// The pieces around a body, gathered once and kept for as long as the body stays near them.
#pragma once

#include "hollow_probe/level/level_cast.hpp"

namespace hollow_probe {

/// Example, a body that walks; one for each body:
///
///     Neighbourhood<3> around;
///     // each tick
///     rig_of_body.tick(level, now, memory, around, readings);
///
/// What is read through it is the same to the last digit as what is read from the whole level. It allocates
/// nothing, and takes about 35 KB. Not to be used by two threads at one time.
template <int D>
class Neighbourhood {  // NOLINT(cppcoreguidelines-pro-type-member-init): filled as far as it is counted
  public:
    static constexpr std::size_t most_casts = 32;

    /// Gathers so much farther to every side than it is asked, in parts of the longest side of what is asked:
    /// a larger margin is gathered less often, and there is more in it to look at.
    explicit Neighbourhood(double margin = 0.06) noexcept : margin_(margin) {}

    /// Some of a list of casts, by their numbers in it.
    struct Casts {
        std::span<const PreparedCast<D>> all;
        std::span<const std::uint32_t> numbers;

        [[nodiscard]] std::size_t size() const noexcept { return numbers.size(); }
        const PreparedCast<D>& operator[](std::size_t i) const noexcept { return all[numbers[i]]; }
    };

    /// Sees to it that all that these casts may meet, mounted at `at`, is at hand; `box` is around all of
    /// their ways, relative to `at`. Pieces are gathered anew if the box has left the margin, if the casts
    /// meet further layers, and if the level is another one or any of its solids were put elsewhere. False if
    /// there are more than 384 pieces in the box, or more than `most_casts`.
    bool keep(const Level<D>& level, const Vec<D>& at, const Bounds<D>& box, const Casts& casts) noexcept;

    /// The first hit of one of the casts, mounted at `at`, all as given to keep(). False if there is none:
    /// `hit` is then left as it was.
    bool first_hit(std::size_t number, const PreparedCast<D>& cast, const Vec<D>& at,
                   const AngleRange& angles, LevelHit<D>& hit) noexcept;

    /// To be called where a level was destroyed and another one stands in its place.
    void forget() noexcept { level_ = nullptr; }

    /// How often pieces were gathered.
    [[nodiscard]] std::size_t times_gathered() const noexcept { return times_gathered_; }

  private:
    static constexpr std::size_t most_pieces = 8 * Gathered<D>::most_blocks;

    bool gather(const Bounds<D>& box, LayerSet layers) noexcept;
    [[nodiscard]] std::span<const std::uint8_t> lanes_of(std::size_t number) const noexcept;
    Meets first_ray_hit(std::size_t number, const PreparedCast<D>& cast, const Vec<D>& origin,
                        const AngleRange& angles, LevelHit<D>& hit) noexcept;
    Vec<D> normal_against(std::size_t place, const Vec<D>* corners, const Vec<D>& direction) noexcept;

    double margin_;
    const Level<D>* level_ = nullptr;
    std::uint64_t shifts_ = 0;
    LayerSet layers_ = 0;
    Bounds<D> covered_;
    std::size_t times_gathered_ = 0;
    bool crowded_ = false;  // with the margin there were too many
    Gathered<D> pieces_;
    /// For each cast a byte a block: the pieces that it may meet.
    std::array<std::uint8_t, most_casts * Gathered<D>::most_blocks> lanes_;
    std::array<bool, most_pieces> has_normal_;
    std::array<Vec<D>, most_pieces> normals_;
};

extern template class Neighbourhood<2>;
extern template class Neighbourhood<3>;

}  // namespace hollow_probe
