#include "elbowroom/base/nearest_in_bands.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "elbowroom/base/symmetric.hpp"

namespace er {
namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();
constexpr int kMost = LinearBands::kMostColumns;

// One side of a row, as sign * a x <= sign * side.
struct HalfSpace {
  int row = -1;
  double sign = 1.0;
};

class DualActiveSet {
 public:
  DualActiveSet(const LinearBands& bands, const double* wanted, NearestInBands& out)
      : bands_(bands), n_(bands.columns), out_(out) {
    std::copy_n(wanted, n_, out_.x.begin());
  }

  NearestInBands::Outcome run() {
    for (int steps = 8 * bands_.count + 16; steps > 0;) {
      const HalfSpace broken = most_broken();
      if (broken.row < 0) return NearestInBands::Outcome::found;
      double pressed = 0.0;  // the multiplier of the broken side
      for (;; --steps) {
        if (steps == 0) return NearestInBands::Outcome::gave_up;
        const Step step = step_towards(broken);
        if (!std::isfinite(step.length)) {
          write_proof(broken);
          return NearestInBands::Outcome::none;
        }
        for (int i = 0; i < active_; ++i) multiplier_[at(i)] -= step.length * by_active_[at(i)];
        pressed += step.length;
        if (step.moves)
          for (int k = 0; k < n_; ++k) out_.x[at(k)] -= step.length * direction_[at(k)];
        if (step.dropped < 0) {
          set_[at(active_)] = broken;
          multiplier_[at(active_++)] = pressed;
          break;
        }
        drop(step.dropped);
      }
    }
    return NearestInBands::Outcome::gave_up;
  }

 private:
  struct Step {
    double length = kInfinity;
    bool moves = false;
    int dropped = -1;  // the active side that has to be let go, or -1: the broken one is met
  };
  static std::size_t at(int i) { return static_cast<std::size_t>(i); }
  [[nodiscard]] const LinearBands::Row& row(int i) const { return bands_.rows[at(i)]; }

  [[nodiscard]] double dot(const LinearBands::Row& a, const double* b) const {
    double sum = 0.0;
    for (int k = 0; k < n_; ++k) sum += a.a[at(k)] * b[k];
    return sum;
  }

  // By how much the side is passed, above zero when it is.
  [[nodiscard]] double excess(const HalfSpace& side) const {
    const LinearBands::Row& r = row(side.row);
    const double limit = side.sign > 0.0 ? r.upper : r.lower;
    return side.sign * (dot(r, out_.x.data()) - limit);
  }

  [[nodiscard]] HalfSpace most_broken() const {
    HalfSpace worst;
    double most = 0.0;
    for (int i = 0; i < bands_.count; ++i) {
      const LinearBands::Row& r = row(i);
      const double value = dot(r, out_.x.data());
      const double over = value - r.upper;
      const double under = r.lower - value;
      if (over > most && over > 1e-12 * (1.0 + std::abs(r.upper))) {
        most = over;
        worst = {i, 1.0};
      }
      if (under > most && under > 1e-12 * (1.0 + std::abs(r.lower))) {
        most = under;
        worst = {i, -1.0};
      }
    }
    return worst;
  }

  // The way that reduces the excess while the active sides stay met: the broken row less its part
  // in the span of the active ones.
  Step step_towards(const HalfSpace& broken) {
    const LinearBands::Row& p = row(broken.row);
    for (int k = 0; k < n_; ++k) direction_[at(k)] = broken.sign * p.a[at(k)];
    if (active_ > 0) {
      for (int i = 0; i < active_; ++i) {
        const HalfSpace& a = set_[at(i)];
        for (int j = 0; j <= i; ++j)
          gram_[at(i * kMost + j)] =
              a.sign * set_[at(j)].sign * dot(row(a.row), row(set_[at(j)].row).a.data());
        by_active_[at(i)] = a.sign * dot(row(a.row), direction_.data());
      }
      if (!solve_positive(gram_.data(), active_, kMost, by_active_.data())) return {};
      for (int i = 0; i < active_; ++i)
        for (int k = 0; k < n_; ++k)
          direction_[at(k)] -= by_active_[at(i)] * set_[at(i)].sign * row(set_[at(i)].row).a[at(k)];
    }
    Step step;
    for (int i = 0; i < active_; ++i) {
      if (by_active_[at(i)] <= 0.0) continue;
      const double length = multiplier_[at(i)] / by_active_[at(i)];
      if (length < step.length) {
        step.length = length;
        step.dropped = i;
      }
    }
    double square = 0.0;
    for (int k = 0; k < n_; ++k) square += direction_[at(k)] * direction_[at(k)];
    const double whole = dot(p, p.a.data());
    // Less than a ten-millionth of the row is outside the span: rounding.
    if (active_ < n_ && square > 1e-14 * whole) {
      step.moves = true;
      const double length = excess(broken) / square;
      if (length <= step.length) {
        step.length = std::max(length, 0.0);
        step.dropped = -1;
      }
    }
    return step;
  }

  void drop(int i) {
    for (int k = i; k + 1 < active_; ++k) {
      set_[at(k)] = set_[at(k + 1)];
      multiplier_[at(k)] = multiplier_[at(k + 1)];
    }
    --active_;
  }

  // The broken row is a sum of active ones with multipliers that none of them can meet.
  void write_proof(const HalfSpace& broken) {
    std::fill_n(out_.proof.begin(), bands_.count, 0.0);
    out_.proof[at(broken.row)] = broken.sign;
    for (int i = 0; i < active_; ++i)
      out_.proof[at(set_[at(i)].row)] -= set_[at(i)].sign * by_active_[at(i)];
  }

  const LinearBands& bands_;
  int n_;
  NearestInBands& out_;
  int active_ = 0;
  std::array<HalfSpace, kMost> set_;
  std::array<double, kMost> multiplier_;
  std::array<double, kMost> by_active_;
  std::array<double, kMost> direction_;
  std::array<double, static_cast<std::size_t>(kMost) * kMost> gram_;
};

}  // namespace

void nearest_in_bands(const LinearBands& bands, const double* wanted, NearestInBands& out) {
  out.outcome = DualActiveSet(bands, wanted, out).run();
}

}  // namespace er
