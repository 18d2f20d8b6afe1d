#include "elbowroom/files/target_file.hpp"

#include "elbowroom/files/document.hpp"
#include "elbowroom/files/expansion.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/target_reading.hpp"

namespace er {
namespace {

std::vector<Target> targets_of(const Node& root, const Cell& cell) {
  expect_kind(root, "targets");
  expect_keys(root, "a target file", root_keys(with_target_defaults({"name", "arm", "targets"})));
  const Arm& arm = arm_of_file(root, cell);
  return read_targets(need(root, "a target file", "targets"), cell, arm,
                      read_target_defaults(root, cell, arm));
}

}  // namespace

std::vector<Target> load_targets(const std::filesystem::path& path, const Cell& cell) {
  return targets_of(read_expanded(path), cell);
}

std::vector<Target> parse_targets(const std::string& text, const std::string& file,
                                  const Cell& cell) {
  Node root = parse_document(text, file);
  expand(root, file);
  return targets_of(root, cell);
}

}  // namespace er
