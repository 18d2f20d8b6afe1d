#include "elbowroom/model/data_sheet.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

constexpr double kQuarter = 0.5 * std::numbers::pi;

// What a family says of one axis before the sheet's own words are heard.
struct Usual {
  const char* joint;
  const char* link;
  JointKind kind;
  Vector3 at;  // from the last frame, in the reference posture
  Vector3 axis;
};

std::vector<Link> chain_of(const std::vector<Usual>& usual, const std::vector<SheetAxis>& axes) {
  if (!axes.empty() && axes.size() != usual.size())
    throw InputError::about(
        "axes", fmt::format("this family has {} axes, found {}", usual.size(), axes.size()));
  std::vector<Link> links{{.name = "base"}};
  for (std::size_t i = 0; i < usual.size(); ++i) {
    const SheetAxis own = axes.empty() ? SheetAxis{} : axes[i];
    Link link;
    link.name = own.link.empty() ? usual[i].link : own.link;
    link.joint.name = own.joint.empty() ? usual[i].joint : own.joint;
    link.joint.kind = usual[i].kind;
    // Differences of dimensions carry rounding in their last digits: 340 mm - 160 mm is 180 mm.
    link.joint.origin = Pose::at((usual[i].at * 1e12).array().round().matrix() / 1e12);
    link.joint.axis = usual[i].axis;
    link.joint.limits = own.limits;
    link.joint.continuous = own.continuous;
    set_zero_and_sense(link.joint, own.zero, own.reversed);
    links.push_back(std::move(link));
  }
  return links;
}

void need_positive(double value, const char* key, const char* what) {
  if (!(value > 0.0) || !std::isfinite(value))
    throw InputError::about(key, fmt::format("{} must be above zero", what),
                            "offsets say their side in words, lengths have none");
}

// How far forward something leans that points this way: 0 for up.
double lean(Pointing pointing) {
  return pointing == Pointing::up ? 0.0 : pointing == Pointing::ahead ? kQuarter : 2 * kQuarter;
}

Link flange(const Vector3& at, const Matrix3& rotation) {
  Link link{.name = "flange"};
  link.joint.origin = {rotation, at};
  return link;
}

}  // namespace

std::vector<SenseWords> sense_words(const SixAxisSheet& /*sheet*/) {
  return {{"left", "right"}, {"forward", "back"},
          {"down", "up"},    {"clockwise", "counter-clockwise"},
          {"down", "up"},    {"clockwise", "counter-clockwise"}};
}

std::vector<SenseWords> sense_words(const SevenAxisSheet& /*sheet*/) {
  return {{"left", "right"}, {"forward", "back"}, {"left", "right"}, {"forward", "back"},
          {"left", "right"}, {"forward", "back"}, {"left", "right"}};
}

std::vector<SenseWords> sense_words(const ScaraSheet& /*sheet*/) {
  return {{"left", "right"}, {"left", "right"}, {"up", "down"}, {"left", "right"}};
}

std::vector<SenseWords> sense_words(const PlanarSheet& sheet) {
  return std::vector<SenseWords>(sheet.lengths.size(), sheet.upright ? SenseWords{"forward", "back"}
                                                                     : SenseWords{"left", "right"});
}

std::vector<Link> links_from(const SixAxisSheet& s, const std::vector<SheetAxis>& given) {
  need_positive(s.upper_arm, "upper_arm", "the length of the upper arm");
  need_positive(s.forearm, "forearm", "the length of the forearm");
  std::vector<SheetAxis> axes = given;
  if (axes.empty()) axes.resize(6);
  // The forearm leans by what the upper arm leans and by its own joint; ahead is its reference.
  const double upper = lean(s.upper_arm_at_zero);
  const double fore = lean(s.forearm_at_zero) - kQuarter;
  if (axes.size() == 6) {
    axes[1].zero += upper;
    axes[2].zero += fore - upper;
  }
  const Vector3 x = Vector3::UnitX();
  const Vector3 y = Vector3::UnitY();
  const Vector3 z = Vector3::UnitZ();
  const JointKind turns = JointKind::revolute;
  std::vector<Link> links =
      chain_of({{"waist", "turret", turns, s.turret_height * z, z},
                {"shoulder",
                 "upper_arm",
                 turns,
                 {s.shoulder_offset, s.side_offset, s.shoulder_height - s.turret_height},
                 y},
                {"elbow", "elbow_block", turns, s.upper_arm * z, y},
                {"forearm_turn", "forearm", turns, {s.forearm_start, 0.0, s.elbow_offset}, x},
                {"wrist_bend", "wrist", turns, (s.forearm - s.forearm_start) * x, y},
                {"wrist_turn", "flange", turns, {s.flange, 0.0, s.wrist_offset}, x}},
               axes);
  return links;
}

std::vector<Link> links_from(const SevenAxisSheet& s, const std::vector<SheetAxis>& axes) {
  need_positive(s.upper_arm, "upper_arm", "the length of the upper arm");
  need_positive(s.forearm, "forearm", "the length of the forearm");
  const Vector3 x = Vector3::UnitX();
  const Vector3 y = Vector3::UnitY();
  const Vector3 z = Vector3::UnitZ();
  const JointKind turns = JointKind::revolute;
  std::vector<Link> links =
      chain_of({{"waist", "turret", turns, Vector3::Zero(), z},
                {"shoulder", "shoulder_block", turns, s.shoulder_height * z, y},
                {"arm_turn", "upper_arm", turns, Vector3::Zero(), z},
                {"elbow", "elbow_block", turns, s.upper_arm * z + s.elbow_offset * x, y},
                {"forearm_turn", "forearm", turns, -s.elbow_offset * x, z},
                {"wrist_bend", "wrist", turns, s.forearm * z, y},
                {"wrist_turn", "flange", turns, s.flange * z + s.wrist_offset * x, z}},
               axes);
  return links;
}

std::vector<Link> links_from(const ScaraSheet& s, const std::vector<SheetAxis>& axes) {
  need_positive(s.inner_arm, "inner_arm", "the length of the inner arm");
  need_positive(s.outer_arm, "outer_arm", "the length of the outer arm");
  const Vector3 x = Vector3::UnitX();
  const Vector3 z = Vector3::UnitZ();
  std::vector<Link> links =
      chain_of({{"inner_turn", "inner_arm", JointKind::revolute, s.arm_height * z, z},
                {"outer_turn", "outer_arm", JointKind::revolute, s.inner_arm * x, z},
                {"lift", "quill", JointKind::prismatic,
                 s.outer_arm * x + (s.flange_height - s.arm_height) * z, z},
                {"quill_turn", "quill_end", JointKind::revolute, Vector3::Zero(), z}},
               axes);
  // A tool is bolted on from below.
  links.push_back(flange(Vector3::Zero(), rotation_about(x, std::numbers::pi)));
  return links;
}

std::vector<Link> links_from(const PlanarSheet& s, const std::vector<SheetAxis>& axes) {
  if (s.lengths.empty()) throw InputError::about("lengths", "an arm needs at least one link");
  const Vector3 along = s.upright ? Vector3::UnitZ() : Vector3::UnitX();
  const Vector3 axis = s.upright ? Vector3::UnitY() : Vector3::UnitZ();
  std::vector<Usual> usual;
  std::vector<std::string> names;
  for (std::size_t i = 0; i < s.lengths.size(); ++i) {
    need_positive(s.lengths[i], "lengths", "the length of a link");
    names.push_back(fmt::format("joint_{}", i + 1));
    names.push_back(fmt::format("link_{}", i + 1));
  }
  for (std::size_t i = 0; i < s.lengths.size(); ++i)
    usual.push_back(
        {names[2 * i].c_str(), names[2 * i + 1].c_str(), JointKind::revolute,
         i == 0 ? Vector3(s.first_height * Vector3::UnitZ()) : Vector3(s.lengths[i - 1] * along),
         axis});
  std::vector<Link> links = chain_of(usual, axes);
  // z of the flange points on along the last link, x stays in the plane.
  const Matrix3 rotation =
      s.upright ? Matrix3(Matrix3::Identity()) : rotation_about(Vector3::UnitY(), kQuarter);
  links.push_back(flange(s.lengths.back() * along, rotation));
  return links;
}

void add_limbs(std::vector<Link>& links, double thickness, const Colour& colour) {
  const double radius = 0.5 * thickness;
  for (std::size_t i = 0; i < links.size(); ++i) {
    if (!links[i].parts.empty()) continue;
    Part part{.shape = Sphere{radius}};
    if (i + 1 < links.size() && links[i + 1].parent.empty()) {
      const Vector3 next = links[i + 1].joint.origin.position;
      if (next.norm() > 0.2 * radius) part = capsule_between(Vector3::Zero(), next, radius);
    }
    part.colour = colour;
    links[i].parts.push_back(part);
  }
}

}  // namespace er
