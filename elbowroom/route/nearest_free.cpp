#include "elbowroom/route/nearest_free.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>

#include "elbowroom/base/random.hpp"
#include "elbowroom/base/told.hpp"
#include "elbowroom/collision/free_postures.hpp"

namespace er {
namespace {

constexpr double kFirstShell = 0.02;  // rad (or m)
constexpr double kLastShell = 3.2;
constexpr double kGrowth = 1.4;
constexpr std::size_t kInShell = 256;  // postures tried in each
constexpr int kHalvings = 12;          // when drawing in: to a four-thousandth of the way
constexpr double kUnchanged = 1e-9;
// More clearance than is asked for, so that what is told has it, too.
constexpr double kLeastSpare = 0.001;  // m
constexpr double kMostSpare = 0.005;

class Neighbourhood {
 public:
  Neighbourhood(const CellQuery& query, Posture about, double clearance, std::uint64_t seed)
      : query_(query),
        about_(std::move(about)),
        clearance_(clearance),
        random_(seed),
        checker_(query),
        parts_(query) {}

  std::optional<Posture> find() {
    if (is_free(about_)) return about_;
    for (double radius = kFirstShell; radius < kLastShell; radius *= kGrowth)
      if (auto found = in_shell(radius)) return drawn_in(*found);
    return std::nullopt;
  }

 private:
  bool is_free(const Posture& posture) { return query_.is_free(posture, clearance_, parts_); }

  [[nodiscard]] Posture within_ranges(const Posture& posture) const {
    return posture.cwiseMax(query_.arm().limits().lower).cwiseMin(query_.arm().limits().upper);
  }

  // The nearest free one of many in a shell.
  std::optional<Posture> in_shell(double radius) {
    const Posture one = Posture::Ones(about_.size());
    std::vector<Posture> postures;
    while (postures.size() < kInShell) {
      const Posture way = random_.between(-one, one);
      const double length = way.norm();
      if (length > 1.0 || length < 1e-3) continue;
      const double share = random_.uniform(1.0 / kGrowth, 1.0);
      postures.push_back(within_ranges(about_ + (radius * share / length) * way));
    }
    std::array<bool, kInShell> free{};
    checker_.check(postures, clearance_, free);
    std::optional<Posture> best;
    for (std::size_t i = 0; i < kInShell; ++i)
      if (free[i] && (!best || (postures[i] - about_).norm() < (*best - about_).norm()))
        best = postures[i];
    return best;
  }

  // Each joint back to where it was, as far as that stays free; then all of them together.
  Posture drawn_in(Posture free) {
    for (int round = 0; round < 2; ++round) {
      for (Eigen::Index j = 0; j < free.size(); ++j) {
        Posture back = free;
        back[j] = about_[j];
        free = last_free(back, free);
      }
      free = last_free(about_, free);
    }
    return free;
  }

  // On the line from what may not be free to what is, the free one nearest to the first that
  // halving finds.
  Posture last_free(const Posture& wanted, const Posture& free) {
    if (is_free(wanted)) return wanted;
    double good = 1.0;
    double bad = 0.0;
    for (int i = 0; i < kHalvings; ++i) {
      const double middle = 0.5 * (good + bad);
      (is_free(wanted + middle * (free - wanted)) ? good : bad) = middle;
    }
    return wanted + good * (free - wanted);
  }

  const CellQuery& query_;
  Posture about_;
  double clearance_;
  RandomStream random_;
  PostureChecker checker_;
  PartPoses parts_;
};

// The joints that differ as they are told, within their ranges.
Posture as_told(const Arm& arm, const Posture& from, Posture to) {
  for (int j = 0; j < arm.dof(); ++j) {
    if (std::abs(to[j] - from[j]) < kUnchanged) continue;
    const double step = arm.moving_joint(j).kind == JointKind::prismatic ? kToldLength : kToldAngle;
    const double wanted = to[j];
    to[j] = told(wanted, step);
    if (to[j] > arm.limits().upper[j]) to[j] = told_below(wanted, step);
    if (to[j] < arm.limits().lower[j]) to[j] = told_above(wanted, step);
  }
  return to;
}

}  // namespace

std::optional<Posture> nearest_free(const CellQuery& query, const Posture& posture,
                                    double clearance, std::uint64_t seed) {
  const Limits& limits = query.arm().limits();
  const Posture within = posture.cwiseMax(limits.lower).cwiseMin(limits.upper);
  for (double spare = kLeastSpare; spare < kMostSpare; spare *= 2.0) {
    const auto free = Neighbourhood(query, within, clearance + spare, seed).find();
    if (!free) return std::nullopt;
    const Posture rounded = as_told(query.arm(), posture, *free);
    if (query.is_free(rounded, clearance)) return rounded;
  }
  return std::nullopt;
}

std::string changed_joints(const Arm& arm, const Posture& from, const Posture& to) {
  std::string text;
  for (int j = 0; j < arm.dof(); ++j) {
    if (std::abs(to[j] - from[j]) < kUnchanged) continue;
    const Joint& joint = arm.moving_joint(j);
    text +=
        fmt::format("{}{} at {}", text.empty() ? "" : ", ", joint.name, text_value(joint, to[j]));
  }
  return text;
}

}  // namespace er
