#include "elbowroom/files/saved_file.hpp"

#include "elbowroom/files/document.hpp"

namespace er {

SavedFile::SavedFile(const std::filesystem::path& path, const std::string& format,
                     const std::string& advice)
    : file_(path.string()) {
  const std::string text = read_text(path);
  try {
    root_ = Json::parse(text);
  } catch (const Json::parse_error& error) {
    throw InputError("this is no whole JSON", "save it again: " + advice,
                     place_in(text, static_cast<std::ptrdiff_t>(error.byte) - 1, file_));
  }
  const std::string kind = format.substr(0, format.find('/'));
  if (!root_.is_object() || root_.value("elbowroom", "") != format)
    throw InputError(
        fmt::format("'{}' is no saved {}: its key 'elbowroom' is not '{}'", file_, kind, format),
        advice);
}

const Json& SavedFile::list(const char* key) const {
  const auto found = root_.find(key);
  if (found == root_.end() || !found->is_array()) throw wrong(key);
  return *found;
}

Origin SavedFile::origin() const {
  return {.version = at<std::string>("version"),
          .instruction_set = at<std::string>("instruction_set"),
          .arm = at<std::string>("arm"),
          .cell = at<std::string>("cell", "name"),
          .cell_digest = at<std::string>("cell", "digest")};
}

std::vector<MeantContact> SavedFile::contacts() const {
  std::vector<MeantContact> out;
  read_list("contacts", out, [](const Json& one) {
    return MeantContact{one.at(0).get<std::string>(), one.at(1).get<std::string>()};
  });
  return out;
}

InputError SavedFile::wrong(const std::string& what) const {
  return InputError(fmt::format("'{}': '{}' is missing or not what it should be", file_, what),
                    "docs/json.md describes what is saved");
}

Json node_of(const char* format, const Origin& from) {
  return {{"elbowroom", format},
          {"version", from.version},
          {"instruction_set", from.instruction_set},
          {"arm", from.arm},
          {"cell", {{"name", from.cell}, {"digest", from.cell_digest}}}};
}

Json node_of(const std::vector<MeantContact>& contacts) {
  Json out = Json::array();
  for (const MeantContact& contact : contacts) out.push_back({contact.first, contact.second});
  return out;
}

Json node_of(const Posture& posture) { return std::vector<double>(posture.begin(), posture.end()); }

Posture posture_from(const Json& json) {
  const auto values = json.get<std::vector<double>>();
  if (values.size() > kMaxJoints) throw Json::other_error::create(0, "", nullptr);
  return Eigen::Map<const Eigen::VectorXd>(values.data(), static_cast<Eigen::Index>(values.size()));
}

}  // namespace er
