#include "elbowroom/reach/general_six.hpp"

#include <algorithm>
#include <cmath>

#include "elbowroom/base/random.hpp"
#include "elbowroom/reach/polish.hpp"

namespace er {
namespace {

constexpr double kMetBy = 1e-10;  // m and rad; a candidate that is polished to this is a posture
constexpr int kPolishSteps = 20;
constexpr int kChanges = 48;  // chains a little different that special geometry is looked at with
constexpr int kSteps = 6;     // from a changed chain back to the exact one
constexpr int kEnough = 12;   // so many in a row without a new posture

std::array<Screw, 6> screws_of(const ScrewChain& chain) {
  std::array<Screw, 6> out;
  std::copy(chain.screws.begin(), chain.screws.end(), out.begin());
  return out;
}

// The row of joints turned round by `by`: S1 S2 ... S6 = whole is S2 ... S6 (whole^-1 S1 whole) =
// whole, too.
std::array<Screw, 6> turned_round(const std::array<Screw, 6>& screws, std::size_t by,
                                  const Pose& whole) {
  const Pose back = whole.inverse();
  std::array<Screw, 6> out;
  for (std::size_t k = 0; k < 6; ++k) {
    out[k] = screws[(k + by) % 6];
    if (k + by < 6) continue;
    out[k].axis = back.rotation * out[k].axis;
    out[k].point = back * out[k].point;
  }
  return out;
}

std::array<Screw, 6> changed_a_little(std::array<Screw, 6> screws, double amount,
                                      RandomStream& random) {
  const auto draw = [&] {
    return Vector3(random.uniform(-amount, amount), random.uniform(-amount, amount),
                   random.uniform(-amount, amount));
  };
  for (Screw& screw : screws) {
    screw.axis = (screw.axis + draw()).normalized();
    screw.point += draw();
  }
  return screws;
}

// Up to sixteen candidates from one number on and before another.
ClosedSolutions some_of(const SixCandidates& found, int from, int end) {
  ClosedSolutions out;
  for (int i = from; i < std::min(end, from + kMostClosedSolutions); ++i) {
    ClosedSolution& one = out.all[static_cast<std::size_t>(out.count++)];
    std::copy(found.values[static_cast<std::size_t>(i)].begin(),
              found.values[static_cast<std::size_t>(i)].end(), one.values.begin());
  }
  return out;
}

// Postures of a changed chain, followed while the chain goes back to what it is.
void follow_back(const ScrewChain& chain, const std::array<Screw, 6>& from, const Pose& tip,
                 SixCandidates& found) {
  ScrewChain between = chain;
  std::array<Polished, kMostClosedSolutions> left;
  for (int first = 0; first < found.count; first += kMostClosedSolutions) {
    ClosedSolutions some = some_of(found, first, found.count);
    for (int step = 0; step < kSteps; ++step) {
      const double share = static_cast<double>(step) / kSteps;
      for (std::size_t k = 0; k < 6; ++k) {
        between.screws[k].axis =
            (from[k].axis + share * (chain.screws[k].axis - from[k].axis)).normalized();
        between.screws[k].point = from[k].point + share * (chain.screws[k].point - from[k].point);
      }
      polish(between.in_lanes(), tip, some, 4, left.data());
    }
    for (int i = 0; i < some.count; ++i)
      std::copy_n(some.all[static_cast<std::size_t>(i)].values.begin(), 6,
                  found.values[static_cast<std::size_t>(first + i)].begin());
  }
}

}  // namespace

GeneralSix::GeneralSix(const ScrewChain& chain)
    : chain_(chain),
      lanes_(chain.in_lanes()),
      elimination_(std::make_shared<const SixElimination>(screws_of(chain))) {}

std::optional<GeneralSix> GeneralSix::of(const ScrewChain& chain) {
  if (!chain.is_turning(6)) return std::nullopt;
  return GeneralSix(chain);
}

void GeneralSix::solve(const Pose& tip, ClosedSolutions& out) const {
  out.count = 0;
  SixCandidates found;
  elimination_->solve(chain_.motion_to(tip), found);
  out.complete = take(tip, found, out) && out.count % 2 == 0;
  if (out.complete) return;
  out.complete = solve_turned(tip, out) && out.count % 2 == 0;
  if (!out.complete) solve_changed(tip, out);
}

// Polishes candidates and keeps those that meet the pose and are new; true when each root of a sure
// elimination gave a posture of its own. (Two postures with one value of the joint that is left are
// a double root, which rounding may split, and both halves lead to one of the two.)
bool GeneralSix::take(const Pose& tip, const SixCandidates& found, ClosedSolutions& out) const {
  ClosedSolutions own;
  take_some(tip, found, 0, found.roots, kMetBy, own);
  const bool each_is_one = own.count == found.roots;
  take_some(tip, found, found.roots, found.count, kClosedMet, own);
  for (const ClosedSolution& one : own) out.add_unknown(one);
  return found.sure && each_is_one;
}

// The candidates from one number on and before another.
void GeneralSix::take_some(const Pose& tip, const SixCandidates& found, int from, int end,
                           double met_by, ClosedSolutions& own) const {
  std::array<Polished, kMostClosedSolutions> left;
  for (; from < end; from += kMostClosedSolutions) {
    ClosedSolutions some = some_of(found, from, end);
    polish(lanes_, tip, some, kPolishSteps, left.data());
    for (int i = 0; i < some.count; ++i) {
      const auto at = static_cast<std::size_t>(i);
      if (left[at].position > met_by || left[at].chord > met_by) continue;
      own.add_unknown(some.all[at]);
    }
  }
}

// The other five joints left in turn; true as soon as one elimination is sure.
bool GeneralSix::solve_turned(const Pose& tip, ClosedSolutions& out) const {
  const Pose whole = chain_.motion_to(tip);
  for (std::size_t by = 1; by < 6; ++by) {
    SixCandidates found;
    SixElimination(turned_round(screws_of(chain_), by, whole)).solve(whole, found);
    for (int i = 0; i < found.count; ++i) {
      auto& values = found.values[static_cast<std::size_t>(i)];
      std::rotate(values.begin(), values.end() - static_cast<std::ptrdiff_t>(by), values.end());
    }
    if (take(tip, found, out)) return true;
  }
  return false;
}

// Every regular posture of the chain lies beside one of a chain that is a little different.
void GeneralSix::solve_changed(const Pose& tip, ClosedSolutions& out) const {
  RandomStream random(1);
  int without_news = 0;
  const auto enough = [&] {
    return without_news >= kEnough && out.count % 2 == 0 && out.count > 0;
  };
  for (int i = 0; i < kChanges && !enough(); ++i) {
    const auto screws = changed_a_little(screws_of(chain_), 0.01 * std::pow(2.0, i % 3), random);
    SixCandidates found;
    SixElimination(screws).solve(chain_.motion_to(tip), found);
    follow_back(chain_, screws, tip, found);
    const int before = out.count;
    take(tip, found, out);
    without_news = out.count > before ? 0 : without_news + 1;
  }
}

}  // namespace er
