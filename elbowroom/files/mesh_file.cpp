#include "elbowroom/files/mesh_file.hpp"

#include <fmt/format.h>

#include <assimp/scene.h>
#include <algorithm>
#include <assimp/Importer.hpp>
#include <cctype>
#include <fstream>
#include <iterator>

#include "elbowroom/bodies/simplify.hpp"
#include "elbowroom/files/exchange_file.hpp"
#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/guarded.hpp"
#include "elbowroom/files/step_text.hpp"
#include "elbowroom/files/surface_bytes.hpp"
#include "elbowroom/model/polygon.hpp"

namespace er {
namespace {

std::optional<Colour> colour_of(const aiScene& scene, const aiMesh& mesh) {
  if (mesh.mMaterialIndex >= scene.mNumMaterials) return std::nullopt;
  const aiMaterial& material = *scene.mMaterials[mesh.mMaterialIndex];
  aiString name;
  // What the reader puts in where a file has no material.
  if (material.Get(AI_MATKEY_NAME, name) == AI_SUCCESS &&
      std::string(name.C_Str()) == AI_DEFAULT_MATERIAL_NAME)
    return std::nullopt;
  aiColor4D colour;
  if (material.Get(AI_MATKEY_BASE_COLOR, colour) != AI_SUCCESS &&
      material.Get(AI_MATKEY_COLOR_DIFFUSE, colour) != AI_SUCCESS)
    return std::nullopt;
  return Colour{static_cast<double>(colour.r), static_cast<double>(colour.g),
                static_cast<double>(colour.b), static_cast<double>(colour.a)};
}

Surface surface_of(const aiScene& scene, const aiMesh& mesh, const aiMatrix4x4& at) {
  Surface out{.name = mesh.mName.C_Str(), .colour = colour_of(scene, mesh)};
  for (unsigned v = 0; v < mesh.mNumVertices; ++v) {
    const aiVector3D p = at * mesh.mVertices[v];
    out.corners.emplace_back(static_cast<double>(p.x), static_cast<double>(p.y),
                             static_cast<double>(p.z));
  }
  const auto count = static_cast<unsigned>(out.corners.size());
  std::vector<int> polygon;
  for (unsigned f = 0; f < mesh.mNumFaces; ++f) {
    const aiFace& face = mesh.mFaces[f];
    polygon.clear();
    for (unsigned k = 0; k < face.mNumIndices; ++k)
      if (face.mIndices[k] < count) polygon.push_back(static_cast<int>(face.mIndices[k]));
    if (polygon.size() == face.mNumIndices) cut_polygon(out.corners, polygon, out.faces);
  }
  if (at.Determinant() < 0)  // it mirrors
    for (auto& face : out.faces) std::swap(face[1], face[2]);
  return out;
}

void collect(const aiScene& scene, const aiNode& node, const aiMatrix4x4& outer,
             std::vector<Surface>& out) {
  const aiMatrix4x4 here = outer * node.mTransformation;
  for (unsigned m = 0; m < node.mNumMeshes; ++m) {
    Surface one = surface_of(scene, *scene.mMeshes[node.mMeshes[m]], here);
    if (one.name.empty()) one.name = node.mName.C_Str();
    // One body in several colours comes as several meshes of one name.
    if (!out.empty() && out.back().name == one.name)
      append(out.back(), one);
    else
      out.push_back(std::move(one));
  }
  for (unsigned c = 0; c < node.mNumChildren; ++c) collect(scene, *node.mChildren[c], here, out);
}

bool ends_in_one_of(const std::filesystem::path& path, const std::vector<std::string>& endings) {
  std::string ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return std::find(endings.begin(), endings.end(), ending) != endings.end();
}

std::vector<Surface> with_points(std::vector<Surface> surfaces) {
  if (std::all_of(surfaces.begin(), surfaces.end(),
                  [](const Surface& one) { return one.corners.empty(); }))
    throw InputError("it has no points");
  return surfaces;
}

// The readers of so many formats stumble over files that are broken, or take all the memory there
// is; `read` makes surfaces.
template <class Read>
std::vector<Surface> read_guarded(const std::string& name, const GuardLimits& limits, Read read) {
  try {
    return surfaces_of_bytes(guarded([&] { return bytes_of(with_points(read())); }, limits));
  } catch (const InputError& error) {
    throw InputError(fmt::format("this mesh cannot be read: {}", error.message()), error.advice(),
                     {name, 0, 0});
  }
}

GuardLimits limits_for_triangles(std::size_t bytes) {
  return {.memory = (std::size_t{256} << 20) + 60 * bytes,
          .seconds = 3.0 + 1e-6 * static_cast<double>(bytes)};
}
// A line of such a file may stand for a surface of a thousand triangles.
GuardLimits limits_for_exact_surfaces(std::size_t bytes) {
  return {.memory = (std::size_t{1} << 30) + 400 * bytes,
          .seconds = 20.0 + 3e-5 * static_cast<double>(bytes)};
}

// `load` has the importer read, and gives its scene.
template <class Load>
std::vector<Surface> read_triangles(const std::string& name, std::size_t bytes, Load load) {
  return read_guarded(name, limits_for_triangles(bytes), [&] {
    Assimp::Importer importer;
    const aiScene* scene = load(importer);
    if (scene == nullptr || scene->mRootNode == nullptr)
      throw InputError(importer.GetErrorString(), "readable are STL, OBJ, PLY, glTF and COLLADA");
    std::vector<Surface> out;
    collect(*scene, *scene->mRootNode, aiMatrix4x4(), out);
    return out;
  });
}

std::string text_of(const std::filesystem::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

// Makes a shape of what is meant of a mesh file, and gives its faults a place.
template <class Make>
auto from_mesh_file(const FileOrigin& from, const Place& place, Make make) {
  const std::vector<Surface> surfaces =
      read_mesh_file(find_file(from.file, place.file, place), from.scale);
  try {
    if (!from.bodies.empty()) return make(bodies_of(surfaces).together(from.bodies));
    Surface whole;
    for (const Surface& surface : surfaces) append(whole, surface);
    return make(std::move(whole));
  } catch (const InputError& error) {
    throw InputError(fmt::format("mesh '{}': {}", from.file, error.message()), error.advice(),
                     place);
  }
}

}  // namespace

bool is_mesh_file(const std::filesystem::path& path) {
  return ends_in_one_of(path, {".stl", ".obj", ".ply", ".gltf", ".glb", ".dae"}) ||
         is_exchange_file(path);
}

std::vector<Surface> read_mesh_file(const std::filesystem::path& path, const Vector3& scale) {
  const std::string name = path.string();
  if (is_exchange_file(path)) {
    check_reads_exchange_files(path);
    if (scale != Vector3::Ones())
      throw InputError("this file states its own unit, so that it cannot have another",
                       "leave out its unit", {name, 0, 0});
  }
  std::error_code none;
  const auto bytes = std::filesystem::file_size(path, none);
  if (none) throw InputError("this mesh cannot be read: there is no such file", "", {name, 0, 0});
  if (is_exchange_file(path)) {
    const int solids = is_iges_file(path) ? 0 : check_step_text(text_of(path), name);
    return read_guarded(name, limits_for_exact_surfaces(bytes),
                        [&] { return triangles_of_exchange_file(path, solids); });
  }
  std::vector<Surface> out = read_triangles(
      name, bytes, [&](Assimp::Importer& importer) { return importer.ReadFile(name, 0); });
  for (Surface& surface : out)
    for (Vector3& corner : surface.corners) corner = corner.cwiseProduct(scale);
  return out;
}

std::vector<Surface> parse_mesh(std::string_view content, const std::string& name) {
  std::string ending = std::filesystem::path(name).extension().string();
  if (!ending.empty()) ending.erase(0, 1);
  return read_triangles(name, content.size(), [&](Assimp::Importer& importer) {
    return importer.ReadFileFromMemory(content.data(), content.size(), 0, ending.c_str());
  });
}

Hull read_hull(const FileOrigin& from, const Place& place) {
  return from_mesh_file(from, place,
                        [&](const Surface& surface) { return hull_in_detail(surface, from); });
}

Mesh read_mesh(const FileOrigin& from, bool is_skin, const Place& place) {
  return from_mesh_file(from, place, [&](Surface surface) {
    if (surface.faces.empty())
      throw InputError("it has points and no triangles", "take it as a cloud:, or as a hull:");
    return mesh_in_detail(std::move(surface), is_skin, from);
  });
}

}  // namespace er
