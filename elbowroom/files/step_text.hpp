// The text of a STEP file (ISO 10303-21) looked over before its entities are made.
#pragma once

#include <string>
#include <string_view>

namespace er {

/// How many solids it gives. Throws InputError, with line and column, for a text that is none, is
/// cut short, gives a number twice, or refers to what is not there: what makes readers stumble.
int check_step_text(std::string_view text, const std::string& name);

}  // namespace er
