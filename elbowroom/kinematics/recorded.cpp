#include "elbowroom/kinematics/recorded.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/symmetric.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

using Model = std::function<Pose(const Posture&)>;

// The mean of poses that are near each other: of the positions, and of the rotations by their
// quaternions (F. Markley et al., "Averaging quaternions", 2007).
Pose mean_of(const std::vector<Pose>& poses) {
  Pose mean;
  mean.position.setZero();
  Eigen::Matrix4d sum = Eigen::Matrix4d::Zero();
  for (const Pose& pose : poses) {
    mean.position += pose.position / static_cast<double>(poses.size());
    const Eigen::Vector4d q = quaternion_wxyz(pose.rotation);
    sum += q * q.transpose();
  }
  mean.rotation = rotation_from_quaternion(symmetric_eigen(sum).vectors.col(3));
  return mean;
}

std::string text_of(const Pose& pose) {
  const Vector3 mm = (pose.position * 1e6).array().round() / 1e3 + 0.0;
  const Vector3 deg = (rpy_of(pose.rotation) * to_deg(1e3)).array().round() / 1e3 + 0.0;
  return fmt::format("[{:.3f}, {:.3f}, {:.3f}] mm, rpy [{:.3f}, {:.3f}, {:.3f}] deg", mm.x(),
                     mm.y(), mm.z(), deg.x(), deg.y(), deg.z());
}

class CauseFinder {
 public:
  CauseFinder(const Arm& arm, const Tool& tool, const Recording& recording, const Pose& frame)
      : arm_(arm), tool_(tool), recording_(recording), to_frame_(frame.inverse()) {}

  RecordedComparison run() {
    RecordedComparison out;
    out.errors = errors_of(recording_, [&](const Posture& q) { return model(q); });
    if (out.errors.size > 1e-7) {
      try_orders();
      try_offsets();
      try_joints();
    }
    for (LikelyCause& cause : causes_)
      if (cause.left.size < out.errors.size / 3.0) out.causes.push_back(std::move(cause));
    std::stable_sort(
        out.causes.begin(), out.causes.end(),
        [](const LikelyCause& a, const LikelyCause& b) { return a.left.size < b.left.size; });
    return out;
  }

 private:
  [[nodiscard]] Pose model(const Posture& q) const { return to_frame_ * tool_pose(arm_, tool_, q); }

  void consider(std::string text, const Recording& recording, const Model& model) {
    causes_.push_back({std::move(text), errors_of(recording, model)});
  }

  void try_orders() {
    const bool all_angles =
        std::all_of(recording_.rows.begin(), recording_.rows.end(),
                    [](const RecordedPose& row) { return row.turned && row.has_angles; });
    if (!all_angles) return;
    for (const RotationOrder& order : all_rotation_orders()) {
      if (order == recording_.order) continue;
      Recording other = recording_;
      for (RecordedPose& row : other.rows) row.pose.rotation = rotation_from(order, row.angles);
      consider(fmt::format("the angles are in the order {}, not {}", name_of(order),
                           name_of(recording_.order)),
               other, [&](const Posture& q) { return model(q); });
    }
  }

  void try_offsets() {
    std::vector<Pose> at_tool;
    std::vector<Pose> at_base;
    for (const RecordedPose& row : recording_.rows) {
      const Pose here = model(row.posture);
      at_tool.push_back(here.inverse() * row.pose);
      at_base.push_back(row.pose * here.inverse());
    }
    const bool turned = recording_.rows.front().turned;
    if (!turned) {  // without orientations only a shift can be told
      Vector3 shift = Vector3::Zero();
      for (const RecordedPose& row : recording_.rows)
        shift += (row.pose.position - model(row.posture).position) /
                 static_cast<double>(recording_.rows.size());
      consider(fmt::format("the base stands elsewhere, by {}", text_of(Pose::at(shift))),
               recording_, [&](const Posture& q) { return Pose::at(shift) * model(q); });
      return;
    }
    const Pose tool = mean_of(at_tool);
    consider(fmt::format("the tip lies elsewhere on the tool, by {}", text_of(tool)), recording_,
             [&](const Posture& q) { return model(q) * tool; });
    const Pose base = mean_of(at_base);
    consider(fmt::format("the base stands elsewhere, by {}", text_of(base)), recording_,
             [&](const Posture& q) { return base * model(q); });
  }

  void try_joints() {
    for (int k = 0; k < arm_.dof(); ++k) {
      const Joint& joint = arm_.moving_joint(k);
      consider(fmt::format("joint {} counts the other way", joint.name), recording_,
               [&](Posture q) {
                 q[k] = -q[k];
                 return model(q);
               });
      const double zero = best_zero(k);
      consider(fmt::format("the zero of joint {} is elsewhere, by {}", joint.name,
                           text_value(joint, zero)),
               recording_, [&](Posture q) {
                 q[k] += zero;
                 return model(q);
               });
    }
  }

  // The one shift of a joint that leaves least: a coarse look all round, then golden section.
  [[nodiscard]] double best_zero(int k) const {
    const auto left = [&](double shift) {
      return errors_of(recording_,
                       [&](Posture q) {
                         q[k] += shift;
                         return model(q);
                       })
          .size;
    };
    const bool turns = arm_.moving_joint(k).kind == JointKind::revolute;
    const double reach = turns ? 3.2 : 0.5;
    double best = 0.0;
    double least = left(0.0);
    constexpr int kLooks = 128;
    for (int i = -kLooks / 2; i <= kLooks / 2; ++i) {
      const double shift = 2.0 * reach * i / kLooks;
      const double size = left(shift);
      if (size < least) {
        least = size;
        best = shift;
      }
    }
    double low = best - 2.0 * reach / kLooks;
    double high = best + 2.0 * reach / kLooks;
    constexpr double kGolden = 0.6180339887498949;
    for (int i = 0; i < 60; ++i) {
      const double a = high - kGolden * (high - low);
      const double b = low + kGolden * (high - low);
      (left(a) < left(b) ? high : low) = left(a) < left(b) ? b : a;
    }
    return 0.5 * (low + high);
  }

  const Arm& arm_;
  const Tool& tool_;
  const Recording& recording_;
  Pose to_frame_;
  std::vector<LikelyCause> causes_;
};

}  // namespace

RecordedErrors errors_of(const Recording& recording,
                         const std::function<Pose(const Posture&)>& model) {
  RecordedErrors out;
  double squares = 0.0;
  for (std::size_t i = 0; i < recording.rows.size(); ++i) {
    const RecordedPose& row = recording.rows[i];
    const Pose pose = model(row.posture);
    const double position = (pose.position - row.pose.position).norm();
    const double angle =
        row.turned ? rotation_vector(pose.rotation.transpose() * row.pose.rotation).norm() : 0.0;
    squares += position * position + kRecordedRadius * kRecordedRadius * angle * angle;
    out.mean_position += position / static_cast<double>(recording.rows.size());
    out.worst_angle = std::max(out.worst_angle, angle);
    if (position < out.worst_position) continue;
    out.worst_position = position;
    out.worst_row = static_cast<int>(i);
  }
  out.size = std::sqrt(squares / static_cast<double>(recording.rows.size()));
  return out;
}

std::string text_of(const RecordedErrors& e) {
  return fmt::format("worst {:.4f} mm and {:.4f} deg, mean {:.4f} mm", to_mm(e.worst_position),
                     to_deg(e.worst_angle), to_mm(e.mean_position));
}

void check_recording(const Arm& arm, const Recording& recording) {
  if (recording.rows.empty()) throw InputError("the recording has no rows");
  for (const RecordedPose& row : recording.rows)
    arm.check_posture(row.posture, "a row of the recording");
}

RecordedComparison compare_recorded(const Arm& arm, const Tool& tool, const Recording& recording,
                                    const Pose& frame) {
  check_recording(arm, recording);
  return CauseFinder(arm, tool, recording, frame).run();
}

std::string RecordedComparison::report(const Recording& recording) const {
  std::string out = fmt::format("{} recorded poses against the model: {} (row {})\n",
                                recording.rows.size(), text_of(errors), errors.worst_row + 1);
  if (errors.size <= 1e-7) return out + "  the model says what was recorded\n";
  if (causes.empty())
    return out + "  no single mistake explains it; --fit zeros or --fit lengths fits several\n";
  out += "  a single mistake that would explain it:\n";
  const double best = causes.front().left.size;
  for (const LikelyCause& cause : causes) {
    if (cause.left.size > 10.0 * best + 1e-5) break;
    out += fmt::format("    {}\n      then {} are left\n", cause.text, text_of(cause.left));
  }
  return out;
}

}  // namespace er
