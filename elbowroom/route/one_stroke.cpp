#include "elbowroom/route/one_stroke.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

using Point = Eigen::Vector2d;
constexpr double kInfinity = std::numeric_limits<double>::infinity();

double cross(const Point& a, const Point& b) { return a.x() * b.y() - a.y() * b.x(); }

// Strokes cut wherever another one ends, or crosses: edges between nodes.
class Branching {
 public:
  struct Edge {
    std::size_t from;
    std::size_t to;
    Stroke points;
    double length;
  };

  Branching(const std::vector<Stroke>& strokes, const OneStrokeOptions& options)
      : tolerance_(options.tolerance), cuts_(strokes.size()) {
    std::vector<Point> on{};  // points at which strokes are cut if they pass there
    for (const Stroke& stroke : strokes) {
      on.push_back(stroke.front());
      on.push_back(stroke.back());
    }
    for (const auto& point : {options.from, options.to})
      if (point) on.push_back(*point);
    for (std::size_t s = 0; s < strokes.size(); ++s) {
      cuts_[s] = {0.0, static_cast<double>(strokes[s].size() - 1)};
      for (const Point& point : on) cut_at(strokes[s], s, point);
      for (std::size_t other = 0; other <= s; ++other) cut_where_crossed(strokes, s, other);
    }
    for (std::size_t s = 0; s < strokes.size(); ++s) add_edges(strokes[s], cuts_[s]);
  }

  [[nodiscard]] const std::vector<Edge>& edges() const { return edges_; }
  [[nodiscard]] const std::vector<Point>& nodes() const { return nodes_; }
  [[nodiscard]] std::size_t node_near(const Point& point) const {
    std::size_t best = 0;
    for (std::size_t i = 1; i < nodes_.size(); ++i)
      if ((nodes_[i] - point).norm() < (nodes_[best] - point).norm()) best = i;
    return best;
  }

 private:
  // A cut is at segment + share.
  void cut_at(const Stroke& stroke, std::size_t s, const Point& point) {
    for (std::size_t i = 0; i + 1 < stroke.size(); ++i) {
      const double share = share_nearest(stroke[i], stroke[i + 1], point);
      const Point here = stroke[i] + share * (stroke[i + 1] - stroke[i]);
      if ((here - point).norm() <= tolerance_) cuts_[s].push_back(static_cast<double>(i) + share);
    }
  }
  void cut_where_crossed(const std::vector<Stroke>& strokes, std::size_t s, std::size_t other) {
    const Stroke& one = strokes[s];
    const Stroke& two = strokes[other];
    for (std::size_t i = 0; i + 1 < one.size(); ++i)
      for (std::size_t k = 0; k + 1 < two.size(); ++k) {
        if (s == other && k + 1 >= i) break;  // itself, and the one next to it
        const Point u = one[i + 1] - one[i];
        const Point v = two[k + 1] - two[k];
        const double area = cross(u, v);
        if (std::abs(area) < 1e-15) continue;
        const double at = cross(two[k] - one[i], v) / area;
        const double there = cross(two[k] - one[i], u) / area;
        if (at < 0.0 || at > 1.0 || there < 0.0 || there > 1.0) continue;
        cuts_[s].push_back(static_cast<double>(i) + at);
        cuts_[other].push_back(static_cast<double>(k) + there);
      }
  }

  std::size_t node_at(const Point& point) {
    for (std::size_t i = 0; i < nodes_.size(); ++i)
      if ((nodes_[i] - point).norm() <= 2.0 * tolerance_) return i;
    nodes_.push_back(point);
    return nodes_.size() - 1;
  }

  void add_edges(const Stroke& stroke, std::vector<double>& cuts) {
    std::sort(cuts.begin(), cuts.end());
    const auto place = [&](double cut) -> Point {
      const auto i = std::min(static_cast<std::size_t>(cut), stroke.size() - 2);
      return stroke[i] + (cut - static_cast<double>(i)) * (stroke[i + 1] - stroke[i]);
    };
    double begin = cuts.front();
    std::size_t from = node_at(place(begin));
    Stroke points{nodes_[from]};
    const auto last = static_cast<double>(stroke.size() - 1);
    for (const double cut : cuts) {
      for (double corner = std::floor(begin) + 1.0; corner < cut; corner += 1.0)
        points.push_back(stroke[static_cast<std::size_t>(corner)]);
      const std::size_t to = node_at(place(cut));
      begin = cut;
      const double length = length_of({points}) + (nodes_[to] - points.back()).norm();
      if (to == from && length <= 4.0 * tolerance_) {  // the same place once more
        points = {nodes_[from]};
        continue;
      }
      points.push_back(nodes_[to]);
      edges_.push_back({from, to, std::move(points), length});
      from = to;
      points = {nodes_[from]};
      if (cut >= last) break;
    }
  }

  double tolerance_;
  std::vector<std::vector<double>> cuts_;
  std::vector<Point> nodes_;
  std::vector<Edge> edges_;
};

// Which edges lead from one node to all others on the shortest way (E. W. Dijkstra, 1959).
struct Ways {
  std::vector<double> length;
  std::vector<int> by;  // the last edge
};
Ways ways_from(const Branching& graph, std::size_t start) {
  const std::size_t n = graph.nodes().size();
  Ways out{std::vector<double>(n, kInfinity), std::vector<int>(n, -1)};
  std::vector<bool> done(n, false);
  out.length[start] = 0.0;
  for (;;) {
    std::size_t here = n;
    for (std::size_t i = 0; i < n; ++i)
      if (!done[i] && out.length[i] < kInfinity && (here == n || out.length[i] < out.length[here]))
        here = i;
    if (here == n) return out;
    done[here] = true;
    for (std::size_t e = 0; e < graph.edges().size(); ++e) {
      const Branching::Edge& edge = graph.edges()[e];
      if (edge.from != here && edge.to != here) continue;
      const std::size_t next = edge.from == here ? edge.to : edge.from;
      if (out.length[here] + edge.length >= out.length[next]) continue;
      out.length[next] = out.length[here] + edge.length;
      out.by[next] = static_cast<int>(e);
    }
  }
}

void check_hangs_together(const Branching& graph) {
  const Ways ways = ways_from(graph, 0);
  double least = kInfinity;
  Point from = Point::Zero();
  Point to = from;
  for (std::size_t i = 0; i < ways.length.size(); ++i)
    for (std::size_t k = 0; k < ways.length.size(); ++k) {
      if (ways.length[i] == kInfinity || ways.length[k] < kInfinity) continue;
      const double gap = (graph.nodes()[i] - graph.nodes()[k]).norm();
      if (gap >= least) continue;
      least = gap;
      from = graph.nodes()[i];
      to = graph.nodes()[k];
    }
  if (least == kInfinity) return;
  throw InputError(fmt::format("this is not one stroke: there is a gap of {} from ({:.1f}, {:.1f}) "
                               "mm to ({:.1f}, {:.1f}) mm",
                               text_length(least), to_mm(from.x()), to_mm(from.y()), to_mm(to.x()),
                               to_mm(to.y())),
                   "close it, or let the arm lift between strokes");
}

// Pairs of odd nodes that are connected once more, so that each is even; one pair may stay as it
// is, as the ends of the stroke.
class Pairing {
 public:
  Pairing(const std::vector<Ways>& ways, const std::vector<std::size_t>& odd, bool may_leave_two)
      : ways_(ways), odd_(odd), used_(odd.size(), false) {
    constexpr std::size_t kExact = 12;
    if (odd.size() <= kExact)
      search(0.0, may_leave_two);
    else
      greedy(may_leave_two);
  }
  [[nodiscard]] const std::vector<std::pair<std::size_t, std::size_t>>& pairs() const {
    return best_;
  }

 private:
  [[nodiscard]] double between(std::size_t a, std::size_t b) const {
    return ways_[odd_[a]].length[odd_[b]];
  }
  void search(double length, bool may_leave_two) {
    if (length >= least_) return;
    const auto first =
        static_cast<std::size_t>(std::find(used_.begin(), used_.end(), false) - used_.begin());
    if (first == used_.size()) {
      least_ = length;
      best_ = pairs_;
      return;
    }
    used_[first] = true;
    for (std::size_t other = first + 1; other < odd_.size(); ++other) {
      if (used_[other]) continue;
      used_[other] = true;
      if (may_leave_two) search(length, false);
      pairs_.emplace_back(odd_[first], odd_[other]);
      search(length + between(first, other), may_leave_two);
      pairs_.pop_back();
      used_[other] = false;
    }
    used_[first] = false;
  }
  // The nearest two first; the last two are the ends.
  void greedy(bool may_leave_two) {
    for (std::size_t left = odd_.size(); left > (may_leave_two ? 2U : 0U); left -= 2) {
      std::size_t a = 0;
      std::size_t b = 0;
      for (std::size_t i = 0; i < odd_.size(); ++i)
        for (std::size_t k = i + 1; k < odd_.size(); ++k)
          if (!used_[i] && !used_[k] && (a == b || between(i, k) < between(a, b))) {
            a = i;
            b = k;
          }
      used_[a] = used_[b] = true;
      best_.emplace_back(odd_[a], odd_[b]);
    }
  }

  const std::vector<Ways>& ways_;
  const std::vector<std::size_t> odd_;
  std::vector<bool> used_;
  std::vector<std::pair<std::size_t, std::size_t>> pairs_;
  std::vector<std::pair<std::size_t, std::size_t>> best_;
  double least_ = kInfinity;
};

// A way along every edge as often as it is there (C. Hierholzer, 1873), as straight as may be.
class Walk {
 public:
  Walk(const Branching& graph, std::vector<int> times) : graph_(graph), times_(std::move(times)) {}

  Stroke run(std::size_t start) {
    visit(start, Point::Zero());
    std::reverse(found_.begin(), found_.end());
    Stroke out{graph_.nodes()[start]};
    for (const Stroke& points : found_) out.insert(out.end(), points.begin() + 1, points.end());
    return out;
  }

 private:
  [[nodiscard]] Stroke points_of(std::size_t edge, bool ahead) const {
    Stroke out = graph_.edges()[edge].points;
    if (!ahead) std::reverse(out.begin(), out.end());
    return out;
  }

  // What is found last comes first.
  void visit(std::size_t node, const Point& heading) {
    for (;;) {
      int best = -1;
      bool best_ahead = true;
      double straightest = -kInfinity;
      for (std::size_t e = 0; e < times_.size(); ++e) {
        if (times_[e] == 0) continue;
        const Branching::Edge& edge = graph_.edges()[e];
        for (const bool ahead : {true, false}) {
          if ((ahead ? edge.from : edge.to) != node) continue;
          const Stroke points = points_of(e, ahead);
          const double straight = heading.dot((points[1] - points[0]).normalized());
          if (straight <= straightest) continue;
          straightest = straight;
          best = static_cast<int>(e);
          best_ahead = ahead;
        }
      }
      if (best < 0) return;
      const auto edge = static_cast<std::size_t>(best);
      --times_[edge];
      Stroke points = points_of(edge, best_ahead);
      const Point way = (points.back() - points[points.size() - 2]).normalized();
      visit(best_ahead ? graph_.edges()[edge].to : graph_.edges()[edge].from, way);
      found_.push_back(std::move(points));
    }
  }

  const Branching& graph_;
  std::vector<int> times_;
  std::vector<Stroke> found_;
};

}  // namespace

Stroke in_one_stroke(const std::vector<Stroke>& strokes, const OneStrokeOptions& options) {
  if (strokes.empty()) return {};
  const Branching graph(strokes, options);
  if (graph.edges().empty()) throw InputError("a stroke is a single point", "leave it out");
  check_hangs_together(graph);
  std::vector<bool> is_odd(graph.nodes().size(), false);
  for (const Branching::Edge& edge : graph.edges())
    for (const std::size_t node : {edge.from, edge.to}) is_odd[node] = !is_odd[node];
  const bool is_free = !options.from && !options.to;
  std::size_t start = graph.edges().front().from;
  if (!is_free) {
    start = options.from ? graph.node_near(*options.from) : graph.node_near(*options.to);
    const std::size_t end = options.to ? graph.node_near(*options.to) : start;
    is_odd[start] = !is_odd[start];
    is_odd[end] = !is_odd[end];
  }
  std::vector<std::size_t> odd;
  for (std::size_t i = 0; i < is_odd.size(); ++i)
    if (is_odd[i]) odd.push_back(i);
  std::vector<Ways> ways(graph.nodes().size());
  for (const std::size_t node : odd) ways[node] = ways_from(graph, node);
  std::vector<int> times(graph.edges().size(), 1);
  const Pairing pairing(ways, odd, is_free);
  for (const auto& [from, to] : pairing.pairs()) {
    std::erase(odd, from);
    std::erase(odd, to);
    for (std::size_t at = to; at != from;) {
      const auto edge = static_cast<std::size_t>(ways[from].by[at]);
      ++times[edge];
      at = graph.edges()[edge].from == at ? graph.edges()[edge].to : graph.edges()[edge].from;
    }
  }
  // From an end, if there are any: the one that was drawn first.
  if (is_free && std::find(odd.begin(), odd.end(), start) == odd.end() && !odd.empty())
    start = odd.front();
  return Walk(graph, std::move(times)).run(start);
}

Stroke text_in_one_stroke(const std::string& text, double height, double lead) {
  const double unit = height / 6.0;
  Stroke out;
  for (const std::vector<Stroke>& letter : letters_of(text, height)) {
    double foot = kInfinity;
    for (const Stroke& stroke : letter)
      for (const Point& point : stroke) foot = std::min(foot, point.y());
    Point left(kInfinity, 0.0);
    Point right(-kInfinity, 0.0);
    for (const Stroke& stroke : letter)
      for (const Point& point : stroke) {
        if (point.y() > foot + 0.3 * unit) continue;
        if (point.x() < left.x()) left = point;
        if (point.x() > right.x()) right = point;
      }
    const Stroke whole =
        in_one_stroke(letter, {.tolerance = 0.05 * unit, .from = left, .to = right});
    out.insert(out.end(), whole.begin(), whole.end());
  }
  if (lead > 0.0) {
    out.insert(out.begin(), out.front() - Point(lead, 0.0));
    out.push_back(out.back() + Point(lead, 0.0));
  }
  return out;
}

}  // namespace er
