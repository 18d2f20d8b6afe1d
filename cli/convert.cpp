#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/cell_writer.hpp"
#include "elbowroom/files/kinematics_code.hpp"
#include "elbowroom/files/write_file.hpp"
#include "elbowroom/kinematics/comparison.hpp"
#include "verb.hpp"

namespace er::cli {
namespace {

struct ConvertArguments {
  std::string in;
  std::string arm;
  std::string base;
  std::string tip;
  std::string to;
  std::string same_as;
  std::string other_arm;
  std::vector<std::string> outs;
};

bool is_xml(const std::string& file) {
  const std::string ending = std::filesystem::path(file).extension().string();
  return ending == ".xml" || ending == ".urdf";
}
bool is_code(const std::string& file) {
  const std::string ending = std::filesystem::path(file).extension().string();
  return ending == ".hpp" || ending == ".h";
}

// A cell file, or a robot XML file as a cell of one arm.
Cell load_any(const std::string& file, const ConvertArguments& own) {
  if (!is_xml(file)) return load_cell(file);
  const RobotXml robot = read_robot_xml(file, {own.base, own.tip});
  CellDescription cell;
  cell.name = robot.name;
  cell.arms = {Arm::build({.name = robot.name, .links = robot.links})};
  cell.notes = robot.notes;
  return Cell::build(cell);
}

std::string notes_text(const char* heading, const std::vector<Note>& notes) {
  std::string out;
  for (const Note& note : notes)
    out += fmt::format("    {}{}: {}; {}\n",
                       note.place.line > 0 ? note.place.text() + ": " : std::string{}, note.subject,
                       note.text, note.advice);
  return out.empty() ? out : fmt::format("  {}:\n{}", heading, out);
}

Answer compare_files(const ConvertArguments& own) {
  const Cell first = load_any(own.in, own);
  const Cell second = load_any(own.same_as, own);
  const Arm& a = for_option("--arm", [&]() { return std::cref(first.arm(own.arm)); });
  const Arm& b = for_option("--other-arm", [&]() { return std::cref(second.arm(own.other_arm)); });
  const Comparison comparison = compare(a, b);
  return {comparison.same() ? Exit::yes : Exit::no, comparison.report(a, b),
          json_object({{"comparison", json_of(comparison)}})};
}

// What is asked for, or what the endings of the files say.
std::string form_of(const ConvertArguments& own) {
  if (!own.to.empty()) return own.to;
  const auto said_by = [](const std::string& file) {
    return is_xml(file) ? "robot_xml" : is_code(file) ? "cpp" : "links";
  };
  const std::string form = own.outs.empty() ? "links" : said_by(own.outs.front());
  for (const std::string& file : own.outs)
    if (said_by(file) != form)
      throw InputError(fmt::format("--out: by their endings {} would be {}, and {} would be {}",
                                   own.outs.front(), form, file, said_by(file)),
                       "write one form at a time, or say --to");
  return form;
}

Written write_as(const Cell& cell, const ConvertArguments& own, const std::string& form) {
  const auto arm = [&]() -> const Arm& {
    return for_option("--arm", [&]() { return std::cref(cell.arm(own.arm)); });
  };
  if (form == "robot_xml") return robot_xml_of(arm());
  if (form == "cpp") return kinematics_code_of(arm());
  const std::vector<std::string> known{"links", "dh_standard", "dh_modified", "robot_xml", "cpp"};
  if (std::find(known.begin(), known.end(), form) == known.end())
    throw unknown_name("form of description for --to", form, known);
  return cell_file_of(cell, form == "links"         ? ChainForm::links
                            : form == "dh_standard" ? ChainForm::dh_standard
                                                    : ChainForm::dh_modified);
}

Answer answer_convert(const VerbParser& parser, const ConvertArguments& own) {
  if (!is_xml(own.in) && !is_xml(own.same_as))
    parser.refuse({"--base", "--tip"}, fmt::format("is of robot XML, and '{}' is none", own.in),
                  "leave it out");
  if (!own.same_as.empty()) return compare_files(own);
  const Cell cell = load_any(own.in, own);
  const std::string form = form_of(own);
  if (form != "robot_xml" && form != "cpp")
    parser.refuse({"--arm"}, fmt::format("says nothing: as {} the whole cell is written", form),
                  "leave it out, or say --to robot_xml or cpp, which are of one arm");
  Written written;
  try {
    written = write_as(cell, own, form);
  } catch (const Refused& refused) {
    return no(refused.reason());
  }
  const std::string head =
      written.lost.empty() ? fmt::format("yes: as {}, nothing lost\n", form)
                           : fmt::format("yes: as {}; {} thing{} cannot be held there\n", form,
                                         written.lost.size(), written.lost.size() == 1 ? "" : "s");
  for (const std::string& file : own.outs) write_file(file, written.text);
  const std::string text = head + notes_text("not held", written.lost) +
                           notes_text("noticed in the file read", cell.notes()) + wrote(own.outs) +
                           (own.outs.empty() ? "\n" + written.text : "");
  return {Exit::yes, text,
          json_object({{"form", json_of(form)},
                       {"lost", json_of(written.lost)},
                       {"noticed", json_of(cell.notes())},
                       {"text", json_of(written.text)}})};
}

}  // namespace

Verb add_convert(VerbParser parser) {
  auto own = std::make_shared<ConvertArguments>();
  parser.text("FILE", own->in, "a cell file, or a robot XML file (.xml, .urdf)");
  parser.text("--arm", own->arm, "which arm; may be left out where there is one");
  parser.text(
      "--to", own->to,
      "links, dh_standard, dh_modified, robot_xml, or cpp: forward kinematics as code (links; "
      "where --out ends so: .xml or .urdf robot_xml, .hpp or .h cpp)");
  parser.text("--base", own->base, "robot XML: the link to begin with (the root)");
  parser.text("--tip", own->tip, "robot XML: only the chain to this link and what hangs on it");
  parser.texts("--out", own->outs, "write to this file instead of printing; may be repeated");
  parser.text("--same-as", own->same_as,
              "do not convert: say whether this file describes the same arm");
  parser.text("--other-arm", own->other_arm, "which arm of the --same-as file");
  parser.goes_with("--other-arm", {"--same-as"}).not_beside("--same-as", {"--to", "--out"});
  parser.footer(
      "Lists what the other form cannot hold. With --same-as the exit code is 1 when they differ.\n"
      "examples:\n"
      "  elbowroom convert demo/glaze.cell.yaml --to dh_modified\n"
      "  elbowroom convert demo/glaze.cell.yaml --to robot_xml --out teasel.xml\n"
      "  elbowroom convert demo/glaze.cell.yaml --out teasel_kinematics.hpp");
  return {parser, [own, parser] { return answer_convert(parser, *own); }};
}

}  // namespace er::cli
