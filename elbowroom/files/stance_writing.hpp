// A new stance written into a cell file that a person keeps, and nothing else of it changed.
#pragma once

#include <filesystem>
#include <string>

#include "elbowroom/model/arm.hpp"

namespace er {

/// The text of a cell file with one more stance of an arm, before those that are there. Comments,
/// order and layout stay. Values read back exactly. `file` is for messages. Throws InputError when
/// the name is taken or no plain word, or when the arm is not described in this text itself but
/// comes from an included file or a template; the message then gives the line to paste.
std::string text_with_stance(const std::string& text, const std::string& file, const Arm& arm,
                             const std::string& name, const Posture& posture);

/// The same for a file, which is written whole or not at all.
void save_stance(const std::filesystem::path& file, const Arm& arm, const std::string& name,
                 const Posture& posture);

/// "over_kiln: [-60 deg, 12.5 deg, 80 mm]".
std::string stance_line(const Arm& arm, const std::string& name, const Posture& posture);

}  // namespace er
