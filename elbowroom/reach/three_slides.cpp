#include "elbowroom/reach/three_slides.hpp"

#include <Eigen/LU>
#include <Eigen/SVD>
#include <cmath>

#include "elbowroom/reach/subproblems.hpp"

namespace er {

ThreeSlides::ThreeSlides(const ScrewChain& chain) : chain_(chain) {
  std::size_t turning = 0, sliding = 0;
  for (int k = 0; k < chain.size(); ++k) {
    if (chain[k].turns)
      turns_[turning++] = k;
    else
      slides_[sliding++] = k;
  }
}

std::optional<ThreeSlides> ThreeSlides::of(const ScrewChain& chain) {
  if (chain.size() != 6 || chain.slides() != 3) return std::nullopt;
  return ThreeSlides(chain);
}

void ThreeSlides::solve(const Pose& tip, ClosedSolutions& out) const {
  constexpr double kFlat = 1e-6;  // the volume of three directions in a plane, but for rounding
  out.count = 0;
  const Vector3& first = chain_[turns_[0]].axis;
  const Vector3& second = chain_[turns_[1]].axis;
  const Vector3& third = chain_[turns_[2]].axis;
  const Matrix3 turned = chain_.motion_to(tip).rotation;
  const TwoTurns two = two_turns(first, second, third, turned * third);
  for (int i = 0; i < two.count; ++i) {
    ClosedSolution one;
    const Matrix3 so_far =
        rotation_about(first, two.first[i]) * rotation_about(second, two.second[i]);
    one.values[static_cast<std::size_t>(turns_[0])] = two.first[i];
    one.values[static_cast<std::size_t>(turns_[1])] = two.second[i];
    one.values[static_cast<std::size_t>(turns_[2])] = turn_of(third, so_far.transpose() * turned);
    if (two.any) one.free_joint = turns_[0];
    std::array<Screw, 6> placed;
    const Pose there = chain_.place(one.values.data(), placed);
    Matrix3 ways;
    for (int k = 0; k < 3; ++k)
      ways.col(k) = placed[static_cast<std::size_t>(slides_[static_cast<std::size_t>(k)])].axis;
    const Vector3 left = tip.position - there.position;
    Vector3 slides = Vector3::Zero();
    if (std::abs(ways.determinant()) > kFlat) {
      slides = ways.inverse() * left;
    } else {  // in one plane: where they can do it at all, one may be anywhere
      const Eigen::JacobiSVD<Matrix3> svd(ways, Eigen::ComputeFullU | Eigen::ComputeFullV);
      for (int k = 0; k < 3 && svd.singularValues()[k] > kFlat; ++k)
        slides += svd.matrixU().col(k).dot(left) / svd.singularValues()[k] * svd.matrixV().col(k);
      Eigen::Index free = 0;
      svd.matrixV().col(2).cwiseAbs().maxCoeff(&free);
      one.free_joint = slides_[static_cast<std::size_t>(free)];
    }
    for (std::size_t k = 0; k < 3; ++k)
      one.values[static_cast<std::size_t>(slides_[k])] = slides[static_cast<Eigen::Index>(k)];
    out.add_unknown(one);  // where the two branches meet they are one
  }
}

}  // namespace er
