// Any text as robot XML: it is read, built and written again, or refused with an InputError.
#include <cstddef>
#include <cstdint>
#include <string>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/robot_xml.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    const auto robot =
        er::parse_robot_xml({reinterpret_cast<const char*>(data), size}, "/nowhere/fuzz.xml");
    er::robot_xml_of(er::Arm::build({.name = "fuzz", .links = robot.links}));
  } catch (const er::InputError&) {
  }
  return 0;
}
