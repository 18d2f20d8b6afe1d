// Audits kept between runs: the same when the geometry is the same, and never used otherwise.
#include "elbowroom/files/pair_cache.hpp"

#include <unistd.h>

#include <catch2/catch.hpp>
#include <fstream>

#include "support/cells.hpp"

using namespace er;

namespace {

struct TemporaryFolder {
  std::filesystem::path path = std::filesystem::temp_directory_path() /
                               ("elbowroom_pair_cache_" + std::to_string(::getpid()));
  TemporaryFolder() { std::filesystem::remove_all(path); }
  ~TemporaryFolder() { std::filesystem::remove_all(path); }
};

Cell cell_with(double x) {
  return Cell::build({.arms = {test::planar_arm()},
                      .fixtures = {test::box_body("block", {0.1, 0.1, 0.1}, {x, 0.3, 0})}});
}

}  // namespace

TEST_CASE("an audit is kept for the same cell and options only") {
  const TemporaryFolder folder;
  const PairAuditOptions options{.samples = 500};
  CHECK_FALSE(kept_audit(folder.path, cell_with(0.5), "flat", options));
  const PairAudit audit = audit_pairs(cell_with(0.5), "flat", options);
  keep_audit(folder.path, cell_with(0.5), "flat", options, audit);
  const auto kept = kept_audit(folder.path, cell_with(0.5), "flat", options);
  REQUIRE(kept);
  REQUIRE(kept->pairs.size() == audit.pairs.size());
  for (std::size_t i = 0; i < audit.pairs.size(); ++i) {
    CHECK(kept->pairs[i].first == audit.pairs[i].first);
    CHECK(kept->pairs[i].second == audit.pairs[i].second);
    CHECK(kept->pairs[i].verdict == audit.pairs[i].verdict);
    CHECK(kept->pairs[i].met == audit.pairs[i].met);
    CHECK(kept->pairs[i].nearest == audit.pairs[i].nearest);
    CHECK(kept->pairs[i].proved_distance == audit.pairs[i].proved_distance);
    CHECK(kept->pairs[i].posture == audit.pairs[i].posture);
  }
  CHECK(kept->unseen_share == audit.unseen_share);
  CHECK_FALSE(kept_audit(folder.path, cell_with(0.5 + 1e-15), "flat", options));
  CHECK_FALSE(kept_audit(folder.path, cell_with(0.5), "flat", {.samples = 501}));
  // A joint held for once, a narrower range, another mount: other questions.
  const Cell cell = cell_with(0.5);
  const Arm& arm = cell.arm("flat");
  const Cell held = cell.with_arm(arm.holding({{arm.moving_joint(0).name, 0.3}}));
  CHECK_FALSE(kept_audit(folder.path, held, "flat", options));
  ArmDescription narrow = arm.description();
  narrow.links[1].joint.limits.upper -= 0.1;
  CHECK_FALSE(kept_audit(folder.path, cell.with_arm(Arm::build(narrow)), "flat", options));
  CHECK_FALSE(
      kept_audit(folder.path, cell.with_arm(arm.mounted_at(Pose::at({0, 0, 1}))), "flat", options));
  // Stances and colours are none.
  ArmDescription named = arm.description();
  named.stances.push_back({"elsewhere", test::values({0.1, 0.2})});
  CHECK(kept_audit(folder.path, cell.with_arm(Arm::build(named)), "flat", options));
  CHECK_FALSE(kept_audit(folder.path, cell_with(0.5), "flat", {.samples = 500, .seed = 2}));
}

TEST_CASE("a broken or foreign file counts as none, and a folder that cannot be made as no harm") {
  const TemporaryFolder folder;
  const PairAuditOptions options{.samples = 200};
  const Cell cell = cell_with(0.5);
  const PairAudit audit = audit_pairs(cell, "flat", options);
  keep_audit(folder.path, cell, "flat", options, audit);
  const auto file = std::filesystem::directory_iterator(folder.path)->path();
  std::string text;
  {
    std::ifstream in(file);
    std::getline(in, text, '\0');
  }
  for (const std::string& broken :
       {std::string(), text.substr(0, text.size() / 2), std::string("{\"description\": 3}"),
        "{\"description\": \"another cell\"" + text.substr(text.find(',')), [&] {
          std::string other = text;
          other.replace(other.find("\"verdict\":") + 11, 1, "9");
          return other;
        }()}) {
    std::ofstream(file) << broken;
    CHECK_FALSE(kept_audit(folder.path, cell, "flat", options));
  }
  CHECK_FALSE(kept_audit({}, cell, "flat", options));
  keep_audit({}, cell, "flat", options, audit);
  keep_audit("/proc/elbowroom", cell, "flat", options, audit);
  CHECK_FALSE(kept_audit("/proc/elbowroom", cell, "flat", options));
}
