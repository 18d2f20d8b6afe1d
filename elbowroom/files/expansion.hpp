// What lets a file say each thing once: included files, named values, templates, repetition. All of
// it is worked out on the tree of nodes, before anything is read from it.
#pragma once

#include <filesystem>
#include <vector>

#include "elbowroom/files/document.hpp"

namespace er {

/// Expands a document in place:
///   include: [shared.yaml]     other files' entries first: lists joined, groups merged
///   values: {arm: 400 mm}      names for quantities; each may use the others
///   templates: {post: {needs: [x], defaults: {h: 45 mm}, makes: ...}}
///   {use: post, with: {x: 2}}  in place of a group of keys; further keys are added or replace
///   {each: {i: 1 to 4}, use or makes: ...}  an entry of a list, once for every combination
/// and (name) in the texts within a template is replaced by the value of a parameter.
/// The keys `include`, `values` and `templates` are gone afterwards. Throws InputError; one about
/// something a template made says where it was used, too.
void expand(Node& root, const std::filesystem::path& file);

/// The keys of the top of a file: `own`, and those that every kind of file has.
std::vector<std::string> root_keys(std::vector<std::string> own);

/// Reads, parses and expands a file.
Node read_expanded(const std::filesystem::path& path);

/// Names of values and templates that nothing used, in file order.
std::vector<Unused> unused_definitions(const Node& root);

}  // namespace er
