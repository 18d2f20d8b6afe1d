// Looking things up by name, with an error that suggests the nearest.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "elbowroom/base/input_error.hpp"

namespace er {

/// The one of `all` whose member `name` is `name`. Allocates nothing when it is there; the error
/// says "unknown stance of arm 'teasel' 'hoem'", from the kind, the owner's kind and the owner.
template <class Named>
const Named& find_named(const std::vector<Named>& all, std::string_view kind, std::string_view name,
                        std::string_view owner_kind = {}, std::string_view owner = {}) {
  for (const Named& one : all)
    if (one.name == name) return one;
  std::vector<std::string> known;
  for (const Named& one : all) known.push_back(one.name);
  std::string what(kind);
  if (!owner_kind.empty())
    what.append(" of ").append(owner_kind).append(" '").append(owner).append("'");
  throw unknown_name(what, name, known);
}

}  // namespace er
