#include "elbowroom/collision/curve_sweep.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// A tube this thin (rad or m) moves nothing by more than a hundredth of a millimetre or so.
constexpr double kThin = 3e-6;
// And so short a bit (rad or m) is one place.
constexpr double kShort = 1e-4;

// A curve over [begin, end] of one of its pieces, and how far it strays from the straight line
// between its ends.
struct Bit {
  Posture from;
  Posture to;
  Posture tube;
};

Bit bit_of(const CurvePiece& piece, double begin, double end) {
  const auto joints = static_cast<Eigen::Index>(piece.joints.size());
  Bit bit{Posture(joints), Posture(joints), Posture::Zero(joints)};
  const double length = end - begin;
  Quintics moved;  // from the beginning of the bit
  for (Eigen::Index k = 0; k < joints; ++k) {
    moved.push_back(shifted(piece.joints[static_cast<std::size_t>(k)], begin));
    bit.from[k] = moved.back()[0];
    bit.to[k] = value_at(moved.back(), length);
    moved.back()[0] = 0.0;
  }
  const Posture way = bit.to - bit.from;
  const double square = way.squaredNorm();
  // The share of the way covered, as far as it goes from end to end.
  Quintic share{};
  double beyond = 0.0;
  if (square > 0.0) {
    for (Eigen::Index k = 0; k < joints; ++k)
      for (std::size_t i = 0; i < 6; ++i)
        share[i] += way[k] / square * moved[static_cast<std::size_t>(k)][i];
    const Extremes e = extremes_of(share, length);
    beyond = std::max({0.0, -e.low, e.high - 1.0});
  }
  for (Eigen::Index k = 0; k < joints; ++k) {
    Quintic beside = moved[static_cast<std::size_t>(k)];
    for (std::size_t i = 0; i < 6; ++i) beside[i] -= way[k] * share[i];
    const Extremes e = extremes_of(beside, length);
    bit.tube[k] = std::max(e.high, -e.low) + beyond * std::abs(way[k]);
  }
  return bit;
}

class CurveProof {
 public:
  CurveProof(const CellQuery& query, double clearance, SweepMemory& memory)
      : query_(query), clearance_(clearance), memory_(memory) {}

  CurveSweep found;

  bool is_free(const CurvePiece& piece, double start, double begin, double end) {
    const Bit bit = bit_of(piece, begin, end);
    const double stray = bit.tube.maxCoeff();
    const double way = (bit.to - bit.from).cwiseAbs().maxCoeff();
    // A tube nearly as wide as it is long proves little.
    const bool thin = stray <= kThin;
    if (thin || stray <= 0.1 * way) {
      ++found.sweeps;
      const Sweep sweep = sweep_line(query_, bit.from, bit.to,
                                     {.clearance = clearance_,
                                      .tube = stray > 0.0 ? bit.tube : Posture{},
                                      .measure_overlap = false},
                                     memory_);
      if (sweep.free) return true;
      if (thin && way <= kShort) {
        found.at = start + begin + sweep.at * (end - begin);
        found.blocking = sweep.blocking;
        return false;
      }
    }
    const double middle = 0.5 * (begin + end);
    return is_free(piece, start, begin, middle) && is_free(piece, start, middle, end);
  }

 private:
  const CellQuery& query_;
  double clearance_;
  SweepMemory& memory_;
};

}  // namespace

CurveSweep sweep_curve(const CellQuery& query, const JointCurve& curve, double clearance,
                       SweepMemory& memory) {
  check_clearance(clearance);
  for (const CurvePiece& piece : curve.pieces())
    for (const Quintic& c : piece.joints)
      for (const double coefficient : c)
        if (!std::isfinite(coefficient))
          throw InputError("the curve has a coefficient that is no finite number");
  CurveProof proof(query, clearance, memory);
  double start = 0.0;
  proof.found.free = true;
  for (const CurvePiece& piece : curve.pieces()) {
    if (!proof.is_free(piece, start, 0.0, piece.duration)) {
      proof.found.free = false;
      break;
    }
    start += piece.duration;
  }
  return proof.found;
}

std::string describe(const CellQuery& query, const CurveSweep& sweep, double clearance) {
  const Nearest& pair = sweep.blocking;
  const std::string names =
      fmt::format("{} and {}", query.name(pair.first), query.name(pair.second));
  // A little nearer is what it begins with.
  if (pair.distance <= clearance + 1e-6)
    return fmt::format("from {} on {} are nearer than {:.1f} mm", text_time(sweep.at), names,
                       to_mm(clearance));
  return fmt::format("at {} it cannot be proved that {}, {:.2f} mm apart, keep {:.1f} mm",
                     text_time(sweep.at), names, to_mm(pair.distance), to_mm(clearance));
}

}  // namespace er
