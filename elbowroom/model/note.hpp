// What a reader of descriptions noticed without having to refuse it; `inspect` passes it on.
#pragma once

#include <string>

#include "elbowroom/base/input_error.hpp"

namespace er {

struct Note {
  Place place = {};
  std::string subject = {};
  std::string text = {};
  std::string advice = {};
};

}  // namespace er
