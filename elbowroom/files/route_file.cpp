#include "elbowroom/files/route_file.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/document.hpp"

namespace er {
namespace {

using Json = nlohmann::json;

constexpr const char* kFormat = "route/1";

Json node_of(const Posture& posture) { return std::vector<double>(posture.begin(), posture.end()); }

Json node_of(const Stretch& s) {
  Json out{s.line,       s.from,       s.to,         s.first,    s.second,
           s.normal.x(), s.normal.y(), s.normal.z(), s.distance, s.travel};
  if (s.first_elements == ElementRange{} && s.second_elements == ElementRange{}) return out;
  for (const ElementRange& range : {s.first_elements, s.second_elements}) {
    out.push_back(range.begin);
    out.push_back(range.end);
  }
  return out;
}

// Reads one file's values by their keys, and says where one is missing or of the wrong kind.
class RouteReader {
 public:
  explicit RouteReader(const std::filesystem::path& path) : file_(path.string()) {
    const std::string text = read_text(path);
    try {
      root_ = Json::parse(text);
    } catch (const Json::parse_error& error) {
      throw InputError("this is no whole JSON", "save the route again with route --out FILE.json",
                       place_in(text, static_cast<std::ptrdiff_t>(error.byte) - 1, file_));
    }
    if (!root_.is_object() || root_.value("elbowroom", "") != kFormat)
      throw InputError(
          fmt::format("'{}' is no saved route: its key 'elbowroom' is not '{}'", file_, kFormat),
          "save one with route --out FILE.json");
  }

  template <class T>
  T at(const char* key) const {
    return guarded(key, [&] { return root_.at(key).get<T>(); });
  }
  [[nodiscard]] const Json& list(const char* key) const {
    const auto found = root_.find(key);
    if (found == root_.end() || !found->is_array()) throw wrong(key);
    return *found;
  }
  // Of a value, or of one entry of a list.
  template <class Read>
  auto guarded(const std::string& what, Read read) const {
    try {
      return read();
    } catch (const Json::exception&) {
      throw wrong(what);
    }
  }
  [[nodiscard]] InputError wrong(const std::string& what) const {
    return InputError(fmt::format("'{}': '{}' is missing or not what it should be", file_, what),
                      "docs/json.md describes saved routes");
  }

 private:
  std::string file_;
  Json root_;
};

Stretch stretch_from(const Json& json) {
  if (!json.is_array() || (json.size() != 10 && json.size() != 14))
    throw Json::other_error::create(0, "", nullptr);
  Stretch s;
  s.line = json[0].get<int>();
  s.from = json[1].get<double>();
  s.to = json[2].get<double>();
  s.first = json[3].get<int>();
  s.second = json[4].get<int>();
  for (int i = 0; i < 3; ++i) s.normal[i] = json[5 + static_cast<std::size_t>(i)].get<double>();
  s.distance = json[8].get<double>();
  s.travel = json[9].get<double>();
  if (json.size() == 10) return s;
  s.first_elements = {json[10].get<int>(), json[11].get<int>()};
  s.second_elements = {json[12].get<int>(), json[13].get<int>()};
  return s;
}

Posture posture_from(const Json& json) {
  const auto values = json.get<std::vector<double>>();
  if (values.size() > kMaxJoints) throw Json::other_error::create(0, "", nullptr);
  return Eigen::Map<const Eigen::VectorXd>(values.data(), static_cast<Eigen::Index>(values.size()));
}

}  // namespace

std::string route_json(const SavedRoute& route) {
  const Certificate& certificate = route.certificate;
  Json out{{"elbowroom", kFormat},
           {"version", route.version},
           {"instruction_set", route.instruction_set},
           {"seed", route.seed},
           {"arm", route.arm},
           {"cell", {{"name", route.cell}, {"digest", route.cell_digest}}},
           {"clearance", certificate.clearance}};
  out["contacts"] = Json::array();
  for (const MeantContact& contact : route.contacts)
    out["contacts"].push_back({contact.first, contact.second});
  out["waypoints"] = Json::array();
  for (const Posture& waypoint : certificate.waypoints)
    out["waypoints"].push_back(node_of(waypoint));
  out["parts"] = Json::array();
  for (const PartName& part : certificate.parts) out["parts"].push_back({part.body, part.part});
  // A line each: there are many.
  std::string text = out.dump(1);
  text.resize(text.size() - 2);
  text += ",\n \"stretches\": [";
  for (std::size_t i = 0; i < certificate.stretches.size(); ++i)
    text += (i == 0 ? "\n  " : ",\n  ") + node_of(certificate.stretches[i]).dump();
  return text + "\n ]\n}\n";
}

SavedRoute load_route(const std::filesystem::path& path) {
  const RouteReader reader(path);
  SavedRoute out;
  out.version = reader.at<std::string>("version");
  out.instruction_set = reader.at<std::string>("instruction_set");
  out.seed = reader.at<std::uint64_t>("seed");
  out.arm = reader.at<std::string>("arm");
  const auto cell = reader.at<Json>("cell");
  out.cell = reader.guarded("cell.name", [&] { return cell.at("name").get<std::string>(); });
  out.cell_digest =
      reader.guarded("cell.digest", [&] { return cell.at("digest").get<std::string>(); });
  out.certificate.clearance = reader.at<double>("clearance");
  const auto read_list = [&](const char* key, auto& to, auto read) {
    const Json& list = reader.list(key);
    for (std::size_t i = 0; i < list.size(); ++i)
      to.push_back(reader.guarded(fmt::format("{}[{}]", key, i), [&] { return read(list[i]); }));
  };
  read_list("contacts", out.contacts, [](const Json& one) {
    return MeantContact{one.at(0).get<std::string>(), one.at(1).get<std::string>()};
  });
  read_list("waypoints", out.certificate.waypoints, posture_from);
  read_list("parts", out.certificate.parts, [](const Json& one) {
    return PartName{one.at(0).get<std::string>(), one.at(1).get<int>()};
  });
  read_list("stretches", out.certificate.stretches, stretch_from);
  return out;
}

}  // namespace er
