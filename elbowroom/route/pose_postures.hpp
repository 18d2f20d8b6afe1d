// All postures in which a tool is at a pose, quickly and many times over.
#pragma once

#include <memory>
#include <vector>

#include "elbowroom/model/arm.hpp"

namespace er {

/// By the closed form of the tool's chain; of seven joints for some elbow angles. Full turns within
/// the ranges count as postures of their own. Joints that the tool does not depend on stay as in
/// `rest`.
class PosePostures {
 public:
  PosePostures(const Arm& arm, const Tool& tool, const Posture& rest);

  /// False where the chain has no such form: then there is nothing to ask.
  [[nodiscard]] bool can() const;
  /// Appends the postures that keep the ranges, always in the same order of branches.
  void at(const Pose& tip, std::vector<Posture>& out) const;

 private:
  [[nodiscard]] bool is_in_range(const Posture& posture) const;
  struct Forms;
  Arm arm_;
  Posture rest_;
  std::shared_ptr<const Forms> forms_;
};

}  // namespace er
