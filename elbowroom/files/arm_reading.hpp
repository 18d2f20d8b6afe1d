// How an arm is read from a cell file, in each of the forms there are for a chain.
#pragma once

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/arm.hpp"

namespace er {

/// One entry under `arms:`. Notes about what was odd in an included robot XML file go to `notes`.
Arm read_arm(const Node& node, std::vector<Note>& notes);

}  // namespace er
