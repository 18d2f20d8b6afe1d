#include "elbowroom/files/motion_file.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/spline.hpp"
#include "elbowroom/files/saved_file.hpp"
#include "elbowroom/files/unit_table.hpp"

namespace er {
namespace {

constexpr const char* kMotionFormat = "motion/1";

Json node_of(const CurvePiece& piece) {
  Json joints = Json::array();
  for (const Quintic& c : piece.joints) {
    std::size_t count = 6;
    while (count > 1 && c[count - 1] == 0.0) --count;
    joints.push_back(
        std::vector<double>(c.begin(), c.begin() + static_cast<std::ptrdiff_t>(count)));
  }
  return {{"duration", piece.duration}, {"joints", joints}};
}

CurvePiece piece_from(const Json& json) {
  CurvePiece piece{json.at("duration").get<double>(), {}};
  for (const Json& one : json.at("joints")) {
    const auto values = one.get<std::vector<double>>();
    if (values.empty() || values.size() > 6) throw Json::other_error::create(0, "", nullptr);
    Quintic c{};
    std::copy(values.begin(), values.end(), c.begin());
    piece.joints.push_back(c);
  }
  return piece;
}

// The values of all joints in one row: by name and unit, or in SI under name and ending.
class JointColumns {
 public:
  JointColumns(const UnitTable& table, const Arm& arm) : table_(table), arm_(arm) {
    si_ = table.has(arm.moving_joint(0).name + "_q");
  }

  [[nodiscard]] bool has(const char* ending) const {
    if (!si_) return false;
    for (int k = 0; k < arm_.dof(); ++k)
      if (!table_.has(arm_.moving_joint(k).name + ending)) return false;
    return true;
  }
  [[nodiscard]] Posture row(std::size_t i, const char* ending) const {
    Posture out(arm_.dof());
    for (int k = 0; k < arm_.dof(); ++k) {
      const Joint& joint = arm_.moving_joint(k);
      out[k] = si_ ? table_.value(i, joint.name + ending, dimension::number)
                   : table_.value(i, joint.name, value_dimension(joint.kind));
    }
    return out;
  }

 private:
  const UnitTable& table_;
  const Arm& arm_;
  bool si_ = false;
};

std::vector<double> times_of(const UnitTable& table) {
  std::vector<double> times;
  double first = 0.0;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    const double time = table.has_unit("t") ? table.value(i, "t", dimension::time)
                                            : table.value(i, "t", dimension::number);
    if (i == 0) first = time;
    if (i > 0 && !(time - first > times.back()))
      throw InputError(
          fmt::format("the times ascend, found {} s after {} s", time, first + times.back()), "",
          table.place(i, "t"));
    times.push_back(time - first);
  }
  return times;
}

}  // namespace

std::string motion_json(const SavedMotion& motion) {
  Json out = er::node_of(kMotionFormat, motion.from);
  out["law"] = motion.law;
  out["clearance"] = motion.clearance;
  out["contacts"] = er::node_of(motion.contacts);
  std::string text = out.dump(1);
  text.resize(text.size() - 2);
  text += ",\n \"pieces\": [";
  const auto& pieces = motion.motion.pieces();
  for (std::size_t i = 0; i < pieces.size(); ++i)
    text += (i == 0 ? "\n  " : ",\n  ") + node_of(pieces[i]).dump();
  return text + "\n ]\n}\n";
}

SavedMotion load_motion(const std::filesystem::path& path) {
  const SavedFile reader(path, kMotionFormat, "save one with pace --out FILE.json");
  SavedMotion out;
  out.from = reader.origin();
  out.law = reader.at<std::string>("law");
  out.clearance = reader.at<double>("clearance");
  out.contacts = reader.contacts();
  std::vector<CurvePiece> pieces;
  reader.read_list("pieces", pieces, piece_from);
  if (pieces.empty()) throw reader.wrong("pieces");
  out.motion = Motion(std::move(pieces));
  return out;
}

Motion load_motion_csv(const std::filesystem::path& path, const Arm& arm) {
  const UnitTable table(path);
  if (!table.has("t"))
    throw InputError("there is no column of times", "name one 't s'", table.heading());
  if (table.rows() < 2) throw InputError("a motion has two rows or more", "", table.place(0, "t"));
  const std::vector<double> times = times_of(table);
  const JointColumns columns(table, arm);
  const bool velocities = columns.has("_qd");
  const bool accelerations = velocities && columns.has("_qdd");
  std::vector<SplineKnot> knots;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    SplineKnot knot{columns.row(i, "_q")};
    if (velocities) knot.velocity = columns.row(i, "_qd");
    if (accelerations) knot.acceleration = columns.row(i, "_qdd");
    knots.push_back(std::move(knot));
  }
  std::vector<double> gaps;
  for (std::size_t i = 0; i + 1 < times.size(); ++i) gaps.push_back(times[i + 1] - times[i]);
  return spline_through(knots, gaps, accelerations ? SplineDegree::quintic : SplineDegree::cubic,
                        SplineEnds::natural);
}

}  // namespace er
