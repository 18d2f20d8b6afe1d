#include "elbowroom/base/instruction_set.hpp"

// This file compiles a kernel that does nothing, for every instruction set, so that Highway's
// list of what was generated can be asked for by name.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/base/instruction_set.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {
const char* target_name() { return hwy::TargetName(HWY_TARGET); }
}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
#include <algorithm>
#include <cstdlib>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

HWY_EXPORT(target_name);

std::string lower_case(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) {
    return static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
  });
  return text;
}

// One bit a set; a lower bit is a better set.
std::vector<std::int64_t> targets() {
  std::vector<std::int64_t> out;
  for (std::int64_t rest = hwy::SupportedTargets() & HWY_TARGETS; rest != 0; rest &= rest - 1)
    out.push_back(rest & -rest);
  return out;
}

const std::vector<std::int64_t>& all_targets() {
  static const std::vector<std::int64_t> all = targets();  // before anything was pinned
  return all;
}

std::string name_of(std::int64_t target) { return lower_case(hwy::TargetName(target)); }

bool use(std::string_view name) {
  for (const std::int64_t target : all_targets()) {
    if (name_of(target) != name) continue;
    hwy::SetSupportedTargetsForTest(target);
    hwy::GetChosenTarget().Update(target);
    return true;
  }
  return false;
}

std::string wanted() {
  const char* text = std::getenv("ELBOWROOM_SIMD");
  return text == nullptr ? "" : text;
}

}  // namespace

std::vector<std::string> instruction_sets() {
  std::vector<std::string> out;
  for (const std::int64_t target : all_targets()) out.push_back(name_of(target));
  return out;
}

bool heed_pinned_instruction_set() {
  static const bool once = [] {
    all_targets();
    if (!wanted().empty()) use(wanted());
    return true;
  }();
  return once;
}

std::string instruction_set() {
  heed_pinned_instruction_set();
  if (const std::string name = wanted(); !name.empty()) {
    const std::vector<std::string> known = instruction_sets();
    if (std::find(known.begin(), known.end(), name) == known.end())
      throw unknown_name("instruction set of ELBOWROOM_SIMD", name, known);
  }
  return lower_case(HWY_DYNAMIC_DISPATCH(target_name)());
}

void pin_instruction_set(std::string_view name) {
  if (!use(name)) throw unknown_name("instruction set", std::string(name), instruction_sets());
}

}  // namespace er
#endif
