#include "elbowroom/bodies/split.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/bodies/neighbours.hpp"
#include "elbowroom/collision/distance.hpp"
#include "elbowroom/model/mesh.hpp"

namespace er {
namespace {

constexpr double kApart = 1e-7;  // of the outer one's size
constexpr double kThin = 1e-9;   // of its size, by volume over area

// Triangles that hang together: the surfaces of bodies and of hollows.
struct Shell {
  Surface surface = {};
  SurfaceHealth health = {};
  AlignedBox box = {};
  int holder = -1;  // the smallest shell that holds it
  int depth = 0;    // how many hold it
  // Made when something may be inside.
  Mesh solid = {};
  Mesh skin = {};

  [[nodiscard]] double size() const { return (box.high - box.low).squaredNorm(); }
};

std::vector<Surface> hanging_together(const Surface& whole) {
  const Neighbours neighbours(whole);
  std::vector<int> part_of(whole.faces.size(), -1);
  std::vector<Surface> out;
  std::vector<int> number(whole.corners.size(), -1);
  for (std::size_t first = 0; first < whole.faces.size(); ++first) {
    if (part_of[first] >= 0) continue;
    part_of[first] = static_cast<int>(out.size());
    std::vector<std::size_t> part{first};
    for (std::size_t i = 0; i < part.size(); ++i)
      for (int k = 0; k < 3; ++k) {
        const int next = neighbours.over(part[i], k).face;
        if (next < 0 || part_of[static_cast<std::size_t>(next)] >= 0) continue;
        part_of[static_cast<std::size_t>(next)] = static_cast<int>(out.size());
        part.push_back(static_cast<std::size_t>(next));
      }
    std::sort(part.begin(), part.end());  // as in the file
    Surface one{.name = whole.name, .colour = whole.colour, .off = whole.off};
    std::vector<int> used;
    for (const std::size_t face : part) {
      one.faces.push_back(whole.faces[face]);
      for (int& corner : one.faces.back()) {
        int& here = number[static_cast<std::size_t>(corner)];
        if (here < 0) {
          used.push_back(corner);
          here = static_cast<int>(one.corners.size());
          one.corners.push_back(whole.corner(corner));
        }
        corner = here;
      }
    }
    for (const int corner : used) number[static_cast<std::size_t>(corner)] = -1;
    out.push_back(std::move(one));
  }
  return out;
}

bool holds(const AlignedBox& outer, const AlignedBox& inner) {
  return outer.holds(inner.low) && outer.holds(inner.high);
}

const Mesh& skin_of(Shell& shell) {
  if (!shell.skin.data) shell.skin = mesh_of(shell.surface.corners, shell.surface.faces, true);
  return shell.skin;
}

// Proved: the surfaces are apart, and one place of the inner one is inside. What touches or runs
// through another counts as outside, since what is inside is left out where things may meet.
bool is_inside(Shell& inner, Shell& outer) {
  if (!outer.health.is_closed() || !holds(outer.box, inner.box)) return false;
  if (!outer.solid.data) outer.solid = mesh_of(outer.surface.corners, outer.surface.faces);
  if (!encloses(*outer.solid.data, inner.surface.triangle(0)[0])) return false;
  const double apart = kApart * std::sqrt(outer.size());
  return further_apart_than(apart, Shape(skin_of(inner)), Pose{}, Shape(skin_of(outer)), Pose{});
}

// Both of its sides are there, with nothing between them.
bool is_sheet(const Shell& shell) {
  return std::abs(shell.health.volume) <= kThin * shell.health.area * std::sqrt(shell.size());
}

void turn_over(Surface& surface) {
  for (auto& face : surface.faces) std::swap(face[1], face[2]);
}

void find_holders(std::vector<Shell>& shells) {
  std::vector<std::size_t> by_size(shells.size());
  std::iota(by_size.begin(), by_size.end(), 0);
  std::stable_sort(by_size.begin(), by_size.end(), [&](std::size_t a, std::size_t b) {
    return shells[a].size() > shells[b].size();
  });
  for (std::size_t i = 0; i < by_size.size(); ++i)
    for (std::size_t k = i; k-- > 0;) {  // the smaller ones first
      Shell& inner = shells[by_size[i]];
      Shell& outer = shells[by_size[k]];
      if (!is_inside(inner, outer)) continue;
      inner.holder = static_cast<int>(by_size[k]);
      inner.depth = outer.depth + 1;
      break;
    }
}

// Shells made bodies, from the outermost inwards: what faces into a body is its hollow.
class BodyMaker {
 public:
  explicit BodyMaker(std::vector<Shell> shells)
      : shells_(std::move(shells)),
        body_of_(shells_.size(), -1),
        is_hollow_(shells_.size(), false) {
    find_holders(shells_);
    std::vector<std::size_t> outer_first(shells_.size());
    std::iota(outer_first.begin(), outer_first.end(), 0);
    std::stable_sort(outer_first.begin(), outer_first.end(), [&](std::size_t a, std::size_t b) {
      return shells_[a].depth < shells_[b].depth;
    });
    for (const std::size_t i : outer_first) add(i);
  }
  std::vector<MeshBody> take() { return std::move(bodies_); }

 private:
  void add(std::size_t i) {
    Shell& shell = shells_[i];
    const bool closed = shell.health.is_closed();
    const bool faces_in = closed && shell.health.volume < 0.0;
    const auto holder = static_cast<std::size_t>(shell.holder);
    MeshBody* around =
        shell.holder < 0 ? nullptr : &bodies_[static_cast<std::size_t>(body_of_[holder])];
    // What holds a body that was turned over was written the other way round, too.
    if (closed && around != nullptr && !is_hollow_[holder] && faces_in != around->turned) {
      is_hollow_[i] = true;
      body_of_[i] = body_of_[holder];
      if (!faces_in) turn_over(shell.surface);
      append(around->surface, shell.surface);
      around->volume -= std::abs(shell.health.volume);
      ++around->hollows;
      return;
    }
    MeshBody body;
    body.turned = faces_in;
    if (faces_in) turn_over(shell.surface);
    body.box = shell.box;
    if (closed && !is_sheet(shell)) body.volume = std::abs(shell.health.volume);
    if (around != nullptr) body.inside_of = body_of_[holder] + 1;
    body.surface = std::move(shell.surface);
    body.outer_faces = body.surface.faces.size();
    body.health = shell.health;
    body_of_[i] = static_cast<int>(bodies_.size());
    bodies_.push_back(std::move(body));
  }

  std::vector<Shell> shells_;
  std::vector<int> body_of_;
  std::vector<bool> is_hollow_;
  std::vector<MeshBody> bodies_;
};

void add_shells(Mended mended, std::vector<Shell>& shells, std::vector<std::string>& done) {
  for (std::string& one : mended.done)
    done.push_back(mended.surface.name.empty() ? std::move(one) : mended.surface.name + ": " + one);
  for (Surface& part : hanging_together(mended.surface)) {
    Shell shell{.surface = std::move(part)};
    shell.health = health_of(shell.surface);
    shell.box = box_of(shell.surface);
    shells.push_back(std::move(shell));
  }
}

// A body may come as several surfaces that are closed together alone: one for each colour.
void join_open_shells(std::vector<Shell>& shells, std::vector<std::string>& done) {
  const auto is_open = [](const Shell& shell) { return shell.health.edges.open > 0; };
  if (std::count_if(shells.begin(), shells.end(), is_open) < 2) return;
  Surface open;
  for (const Shell& shell : shells)
    if (is_open(shell)) append(open, shell.surface);
  std::erase_if(shells, is_open);
  add_shells(mend(std::move(open)), shells, done);
}

void number_by_size(std::vector<MeshBody>& bodies) {
  std::vector<std::size_t> order(bodies.size());
  std::iota(order.begin(), order.end(), 0);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return bodies[a].size().norm() > bodies[b].size().norm();
  });
  std::vector<int> number(bodies.size() + 1, 0);
  for (std::size_t i = 0; i < order.size(); ++i) number[order[i] + 1] = static_cast<int>(i) + 1;
  std::vector<MeshBody> sorted;
  for (const std::size_t i : order) {
    MeshBody& body = bodies[i];
    body.number = static_cast<int>(sorted.size()) + 1;
    body.number_in_file = body.number;
    body.inside_of = number[static_cast<std::size_t>(body.inside_of)];
    if (body.turned || body.hollows > 0) body.health = health_of(body.surface);
    sorted.push_back(std::move(body));
  }
  bodies = std::move(sorted);
}

}  // namespace

Surface MeshBody::outside() const {
  Surface out = surface;
  out.faces.resize(outer_faces);
  return out;
}

Bodies joined(const std::vector<Bodies>& files) {
  Bodies out = files.front();
  for (std::size_t f = 1; f < files.size(); ++f) {
    const int before = static_cast<int>(out.list.size());
    for (MeshBody body : files[f].list) {
      body.file = static_cast<int>(f);
      body.number += before;
      if (body.inside_of > 0) body.inside_of += before;
      out.list.push_back(std::move(body));
    }
    out.mended.insert(out.mended.end(), files[f].mended.begin(), files[f].mended.end());
    out.low = out.low.cwiseMin(files[f].low);
    out.high = out.high.cwiseMax(files[f].high);
  }
  return out;
}

double Bodies::off() const {
  double out = 0.0;
  for (const MeshBody& body : list) out = std::max(out, body.surface.off);
  return out;
}

std::string exact_surfaces_text(double off) {
  return fmt::format(
      "its exact surfaces are up to {:.2g} mm off the triangles that they were laid out in; shapes "
      "are thicker by that",
      1e3 * off);
}

const MeshBody& Bodies::numbered(int number) const {
  if (number < 1 || number > static_cast<int>(list.size()))
    throw InputError(fmt::format("there is no body {}", number),
                     list.size() == 1 ? "the mesh is one body"
                                      : fmt::format("they are numbered from 1 to {}", list.size()));
  return list[static_cast<std::size_t>(number - 1)];
}

const MeshBody& Bodies::outermost(const MeshBody& body) const {
  const MeshBody* out = &body;
  while (out->inside_of > 0) out = &numbered(out->inside_of);
  return *out;
}

Surface Bodies::together(const std::vector<int>& numbers) const {
  Surface out;
  for (const int number : numbers) append(out, numbered(number).surface);
  return out;
}

Bodies bodies_of(const std::vector<Surface>& surfaces) {
  Bodies out;
  std::vector<Shell> shells;
  for (const Surface& surface : surfaces)
    if (!surface.faces.empty()) add_shells(mend(surface), shells, out.mended);
  if (shells.empty()) throw InputError("a mesh without triangles");
  if (surfaces.size() > 1) join_open_shells(shells, out.mended);
  out.list = BodyMaker(std::move(shells)).take();
  number_by_size(out.list);
  AlignedBox box = out.list.front().box;
  for (const MeshBody& body : out.list) box = box.with(body.box);
  out.low = box.low;
  out.high = box.high;
  return out;
}

}  // namespace er
