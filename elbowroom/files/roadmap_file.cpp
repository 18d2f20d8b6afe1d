#include "elbowroom/files/roadmap_file.hpp"

#include "elbowroom/files/saved_file.hpp"

namespace er {
namespace {

constexpr const char* kRoadmapFormat = "roadmap/1";

using State = PostureGraph::State;

// Of a line in the file: 1 free, 0 blocked, -1 not looked at.
int number_of(State state) { return state == State::unknown ? -1 : state == State::free ? 1 : 0; }

// A list with a line of the file for each entry: there are many.
template <class List, class Node>
std::string list_text(const List& list, Node node) {
  std::string text = "[";
  for (std::size_t i = 0; i < list.size(); ++i)
    text += (i == 0 ? "\n  " : ",\n  ") + node(list[i]).dump();
  return text + "\n ]";
}

}  // namespace

std::string roadmap_json(const Origin& from, const Roadmap& roadmap) {
  Json head = node_of(kRoadmapFormat, from);
  head["clearance"] = roadmap.clearance();
  std::vector<int> nodes(static_cast<std::size_t>(roadmap.graph().size()));
  for (std::size_t i = 0; i < nodes.size(); ++i) nodes[i] = static_cast<int>(i);
  std::string text = head.dump(1);
  text.resize(text.size() - 2);
  text += ",\n \"postures\": " +
          list_text(nodes, [&](int node) { return node_of(roadmap.graph().posture(node)); });
  text += ",\n \"lines\": " + list_text(roadmap.graph().lines(), [](const auto& line) {
            return Json{line.first, line.second, number_of(line.state)};
          });
  return text + "\n}\n";
}

SavedRoadmap load_roadmap(const std::filesystem::path& path) {
  const SavedFile reader(path, kRoadmapFormat, "make one with route --roadmap FILE.json");
  SavedRoadmap out;
  out.from = reader.origin();
  out.clearance = reader.at<double>("clearance");
  reader.read_list("postures", out.postures, posture_from);
  if (out.postures.empty()) throw reader.wrong("postures");
  for (std::size_t i = 0; i < out.postures.size(); ++i)
    if (out.postures[i].size() != out.postures.front().size() || !out.postures[i].allFinite())
      throw reader.wrong(fmt::format("postures[{}]", i));
  const auto count = static_cast<int>(out.postures.size());
  reader.read_list("lines", out.lines, [&](const Json& one) {
    const int state = one.at(2).get<int>();
    PostureGraph::Line line{one.at(0).get<int>(), one.at(1).get<int>(),
                            state < 0    ? State::unknown
                            : state == 0 ? State::blocked
                                         : State::free};
    if (line.first < 0 || line.second < 0 || line.first >= count || line.second >= count)
      throw Json::other_error::create(0, "", nullptr);
    return line;
  });
  return out;
}

}  // namespace er
