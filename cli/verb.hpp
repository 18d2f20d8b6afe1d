// What the verbs of the tool share: their arguments, and how they answer.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "elbowroom/base/progress.hpp"
#include "elbowroom/base/text.hpp"
#include "elbowroom/collision/cell_query.hpp"
#include "elbowroom/files/document.hpp"
#include "elbowroom/files/json.hpp"
#include "elbowroom/kinematics/target.hpp"
#include "elbowroom/model/cell.hpp"
#include "parser.hpp"

namespace er::cli {

/// Exit codes of the tool.
enum class Exit { yes = 0, no = 1, bad_input = 2, internal = 3 };

/// What a verb has to say: the same facts as text and as JSON.
struct Answer {
  Exit exit = Exit::yes;
  std::string text;         ///< the verdict is its first line
  std::string json = "{}";  ///< an object: the members beside "verb" and "verdict"
};

/// An answer of no: the reason is the text.
Answer no(const Reason& reason);

/// One verb: its argument parser and what to run when it was chosen.
struct Verb {
  VerbParser parser;
  std::function<Answer()> run;
};

/// Arguments that most verbs take. Each verb uses those it adds.
struct Arguments {
  std::string cell;
  std::string arm;
  std::string target;
  std::string targets;
  std::string tool;
  std::string place;
  std::string rpy;
  std::string frame;
  std::string clearance = "5 mm";
  std::string station;
  std::vector<std::string> holds;
  std::string holding;
  std::vector<std::string> freedoms;
  std::vector<std::string> requires_;
  std::vector<std::string> off;
  std::vector<std::string> on;
  std::vector<std::string> wishes;
  std::vector<std::string> outs;
};

/// The cell file (required), --arm, --station, --hold and --holding.
void add_cell(VerbParser& parser, Arguments& arguments);
/// The cell that they name: the arm on the station and with the joints held that were asked for.
Cell read_cell(const Arguments& arguments);
/// --target with --targets, or --place with --rpy, --in and --tool; and for either --leave,
/// --require, --off, --on and --wish.
void add_target(VerbParser& parser, Arguments& arguments);
/// --clearance; the default stands in `arguments` already.
void add_clearance(VerbParser& parser, Arguments& arguments);
/// --out FILE, any number of times; `endings` is what the help says of them.
void add_out(VerbParser& parser, Arguments& arguments, const std::string& endings);

/// The target that the arguments name, or nothing when they name none.
std::optional<Target> read_target(const Cell& cell, const Arm& arm, const Arguments& arguments);
/// The same for routes, which may end at any of several: --target NAME, NAME.
std::vector<Target> read_any_target(const Cell& cell, const Arm& arm, const Arguments& arguments);
/// The targets of these names in the file of --targets, as they stand there.
std::vector<Target> named_targets(const Cell& cell, const Arguments& arguments,
                                  const std::vector<std::string>& names);
/// What --leave says, set in a place.
void read_leave(const Arguments& arguments, AtPlace& place);
double read_clearance(const Arguments& arguments);

/// A posture from the command line: the name of a stance, or one quantity per moving joint with
/// commas between: "0 deg, -20 deg, ...".
Posture read_posture_argument(const Arm& arm, const std::string& text, const std::string& option);

/// "NAME = VALUE" as the two, without blanks round them; `example` is for the message.
struct NamedValue {
  std::string name;
  std::string value;
};
NamedValue named_value(const std::string& text, const std::string& option,
                       const std::string& example);

/// Settings such as "tool = 2" as the map that a file would hold; `example` is for the message.
Node settings_as_node(const std::vector<std::string>& settings, const std::string& option,
                      const std::string& example);

/// Contacts that are meant in a question, beside those of the cell as it was read.
std::vector<MeantContact> contacts_beyond(const Cell& cell, const CellQuery& query);

/// Runs `read`, naming the option in an error it throws.
template <class Read>
auto for_option(const std::string& option, Read read) {
  try {
    return read();
  } catch (const InputError& error) {
    if (!error.place().file.empty()) throw;
    throw InputError(option + ": " + error.message(), error.advice());
  }
}

/// Checks the endings of files to write before any work is done.
void check_endings(const Arguments& arguments, const std::vector<std::string>& known);
void check_endings(const std::string& option, const std::vector<std::string>& files,
                   const std::vector<std::string>& known);

/// "  wrote FILE" for each file.
std::string wrote(const std::vector<std::string>& files);

/// Progress on standard error: a bar, when that is a terminal and the work takes over half a
/// second.
Progress progress_bar();

// Each verb adds itself to the tool's parser.
Verb add_convert(VerbParser parser);
Verb add_inspect(VerbParser parser);
Verb add_pairs(VerbParser parser);
Verb add_where(VerbParser parser);
Verb add_reach(VerbParser parser);
Verb add_follow(VerbParser parser);
Verb add_route(VerbParser parser);
Verb add_tune(VerbParser parser);
Verb add_pace(VerbParser parser);
Verb add_audit(VerbParser parser);
Verb add_rehearse(VerbParser parser);
Verb add_survey(VerbParser parser);
Verb add_draw(VerbParser parser);
Verb add_demo(VerbParser parser);

}  // namespace er::cli
