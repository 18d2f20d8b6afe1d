// Robot XML (URDF): one tree of links and joints per file. In and out.
#pragma once

#include <filesystem>
#include <string>
#include <utility>
#include <vector>

#include "elbowroom/files/document.hpp"
#include "elbowroom/model/cell.hpp"

namespace er {

/// Which part of a file is wanted: all of it, or an arm of its own.
struct RobotXmlOptions {
  std::string base = {};  ///< the link to begin with; empty is the root
  /// With a tip: the chain from base to tip, what is fixed to it, and all that hangs on the tip.
  std::string tip = {};
};

struct RobotXml {
  std::string name;
  std::vector<Link> links;  ///< a parent always comes before those that hang on it
  std::vector<Note> notes;  ///< what was tolerated, and what was passed over
};

/// Reads a file. Tolerated, with a note: missing or senseless limits, links without inertia, names
/// with blanks (they become underscores), elements that are not part of the format (counted).
/// Meshes become their convex hulls. A planar joint becomes three single joints, a floating one
/// six. Throws InputError with the line for what cannot be one tree: two roots, a loop, an unknown
/// link, a value that is no number, limits the wrong way round, a file that ends early.
RobotXml read_robot_xml(const std::filesystem::path& path, const RobotXmlOptions& options = {});

/// The same from text; `file` is for messages and for finding meshes.
RobotXml parse_robot_xml(const std::string& text, const std::string& file,
                         const RobotXmlOptions& options = {});

/// What another form of description holds of something, and what it cannot.
struct Written {
  std::string text;
  std::vector<Note> lost;
};

/// An arm as robot XML. Lost are tools, stances, stations, the mount, limits of acceleration and
/// jerk; a capsule becomes a cylinder and two spheres.
Written robot_xml_of(const Arm& arm);

/// The `robot_xml:` group of an arm: {file, base, tip}, or the file's name alone.
void read_robot_xml_form(const Node& node, ArmDescription& arm, std::vector<Note>& notes);

/// The `robot_xml:` group of a fixture: {file, base, tip, posture: {joint: value}}. The parts of
/// the mechanism frozen at a posture, in the frame of its base.
std::vector<Part> read_frozen_robot_xml(const Node& node, std::vector<Note>& notes);

}  // namespace er
