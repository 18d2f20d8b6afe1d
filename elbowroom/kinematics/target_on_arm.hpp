// A target made ready for one arm: names looked up, joint bands joined with the ranges.
#pragma once

#include <array>

#include "elbowroom/base/random.hpp"
#include "elbowroom/kinematics/target.hpp"

namespace er {

/// Normal equations of all rows of a target at a posture: A = sum g g^T and b = sum g e over the
/// rows, each weighted; g is a row's gradient over the joints. Lives on the stack.
struct NormalEquations {
  std::array<double, std::size_t{kMaxJoints} * kMaxJoints> a;  ///< lower half, dof() a row
  std::array<double, kMaxJoints> b;
  double cost = 0.0;  ///< the sum of squared, weighted errors
};

/// Refers to the arm and the target, which must outlive it. Making and using it allocates nothing.
class TargetOnArm {
 public:
  static constexpr int kMostRequirements = 16;

  /// Throws InputError for an unknown tool, link or joint, a frame on an arm without tools, joint
  /// bands that leave a joint no value, too many requirements, or none at all.
  TargetOnArm(const Arm& arm, const Target& target);

  [[nodiscard]] const Arm& arm() const { return *arm_; }
  [[nodiscard]] const Target& target() const { return *target_; }
  /// The ranges of the arm and the joint bands of the target together.
  [[nodiscard]] const Posture& lower() const { return lower_; }
  [[nodiscard]] const Posture& upper() const { return upper_; }

  /// Postures spread evenly over these ranges, over one turn of a continuous joint.
  [[nodiscard]] SpreadSequence starts() const {
    return {lower_.cwiseMax(arm_->search_lower()), upper_.cwiseMin(arm_->search_upper())};
  }

  /// A requirement that is on, and the frame it is about. Joint bands are not among them.
  struct Bound {
    const Requirement* requirement = nullptr;
    int link = -1;
    Pose frame = {};      ///< in the link
    double weight = 1.0;  ///< of its errors beside those of the others
  };
  void weigh(int requirement, double weight) {
    bound_[static_cast<std::size_t>(requirement)].weight = weight;
  }
  [[nodiscard]] int size() const { return count_; }
  [[nodiscard]] const Bound& operator[](int i) const { return bound_[static_cast<std::size_t>(i)]; }

  /// How far a requirement is from being met, m and rad; zero within its bands.
  struct Error {
    double position = 0.0;
    double angle = 0.0;
  };
  [[nodiscard]] Error error_of(int requirement, const PostureRef& posture) const;
  /// The root of the sum of squares over all requirements.
  [[nodiscard]] Error error(const PostureRef& posture) const;
  /// Every requirement within its tolerances, and every joint within lower() and upper().
  [[nodiscard]] bool is_met(const PostureRef& posture) const;

  /// Fills in the equations; angles count `angle_weight` m a radian. Returns the largest error in
  /// units of its tolerance (angles left out when their weight is 0): 1 or less is met. `error` is
  /// that of all requirements together.
  double equations(const PostureRef& posture, double angle_weight, NormalEquations& out,
                   Error& error) const;

 private:
  const Arm* arm_;
  const Target* target_;
  Posture lower_;
  Posture upper_;
  std::array<Bound, kMostRequirements> bound_;
  int count_ = 0;
};

}  // namespace er
