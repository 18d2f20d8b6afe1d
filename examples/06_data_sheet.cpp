// An arm from the dimensions of its data sheet; its Denavit-Hartenberg table; and what a wrong sign
// does, told by comparing the two.
#include <fmt/format.h>
#include <elbowroom/kinematics/comparison.hpp>
#include <elbowroom/model/data_sheet.hpp>
#include <elbowroom/model/denavit_hartenberg.hpp>

namespace {

er::Arm arm_from(const std::string& name, const er::SixAxisSheet& sheet) {
  std::vector<er::Link> links = er::links_from(sheet);
  er::add_limbs(links, 0.09, {});
  return er::Arm::build({.name = name,
                         .links = links,
                         .tools = {{.name = "tip", .tip = er::Pose::at({0.12, 0.0, 0.0})}}});
}

}  // namespace

int main() {
  using namespace er::literals;
  er::SixAxisSheet sheet{.shoulder_height = 340.0_mm,
                         .shoulder_offset = 40.0_mm,  // in front of axis 1
                         .upper_arm = 400.0_mm,
                         .elbow_offset = 30.0_mm,  // above axis 3
                         .forearm = 390.0_mm,
                         .flange = 65.0_mm,
                         .forearm_start = 150.0_mm};
  const er::Arm arm = arm_from("as_drawn", sheet);
  const auto table = er::dh_table_of(arm, arm.tool("tip"), er::DhForm::modified);
  if (!table) return fmt::print("{}\n", table.reason()), 1;
  fmt::print("the arm of the sheet, as a modified table:\n{}\n", er::text_of(*table));

  // The mistake that is easiest to make: an offset on the wrong side.
  sheet.elbow_offset = -sheet.elbow_offset;
  const er::Arm wrong = arm_from("offset_below", sheet);
  const er::Comparison comparison = er::compare(arm, wrong);
  fmt::print("{}", comparison.report(arm, wrong));
  return comparison.same() ? 1 : 0;
}
