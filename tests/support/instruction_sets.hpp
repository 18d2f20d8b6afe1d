// Runs a test on every instruction set that the machine has.
#pragma once

#include <functional>
#include <string>

#include "elbowroom/base/instruction_set.hpp"

namespace er::test {

/// The set in use before is in use again afterwards.
inline void on_each_instruction_set(const std::function<void(const std::string&)>& body) {
  struct Restore {
    std::string name = instruction_set();
    ~Restore() { pin_instruction_set(name); }
  } const restore;
  for (const std::string& name : instruction_sets()) {
    pin_instruction_set(name);
    body(name);
  }
}

}  // namespace er::test
