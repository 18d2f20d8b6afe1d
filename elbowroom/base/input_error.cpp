#include "elbowroom/base/input_error.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <vector>

namespace er {
namespace {

std::string full_text(const std::string& message, const std::string& advice, const Place& place,
                      const std::string& subject) {
  std::string text = place.text();
  if (text.empty()) text = subject;
  if (!text.empty()) text += ": ";
  text += message;
  if (!advice.empty()) text += "\n  " + advice;
  return text;
}

// Optimal string alignment: insertions, deletions, changes and swaps of neighbours cost 1 each.
std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::vector<std::size_t>> cost(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  for (std::size_t i = 0; i <= a.size(); ++i) cost[i][0] = i;
  for (std::size_t j = 0; j <= b.size(); ++j) cost[0][j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t change = a[i - 1] == b[j - 1] ? 0 : 1;
      cost[i][j] = std::min({cost[i - 1][j] + 1, cost[i][j - 1] + 1, cost[i - 1][j - 1] + change});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
        cost[i][j] = std::min(cost[i][j], cost[i - 2][j - 2] + 1);
    }
  }
  return cost[a.size()][b.size()];
}

}  // namespace

std::string Place::text() const {
  if (line == 0) return file;
  if (column == 0) return fmt::format("{}:{}", file, line);
  return fmt::format("{}:{}:{}", file, line, column);
}

InputError::InputError(std::string message, std::string advice, Place place)
    : InputError(std::move(message), std::move(advice), std::move(place), {}) {}

InputError::InputError(std::string message, std::string advice, Place place, std::string subject)
    : std::runtime_error(full_text(message, advice, place, subject)),
      message_(std::move(message)),
      advice_(std::move(advice)),
      place_(std::move(place)),
      subject_(std::move(subject)) {}

InputError InputError::about(std::string subject, std::string message, std::string advice) {
  return {std::move(message), std::move(advice), {}, std::move(subject)};
}

InputError InputError::at(Place place) const {
  return {message_, advice_, std::move(place), subject_};
}

std::string nearest_name(std::string_view name, std::span<const std::string> known) {
  std::string best;
  std::size_t best_distance = std::max<std::size_t>(1, name.size() / 3) + 1;
  for (const std::string& candidate : known) {
    const std::size_t distance = edit_distance(name, candidate);
    if (distance < best_distance) {
      best_distance = distance;
      best = candidate;
    }
  }
  return best;
}

InputError unknown_name(std::string_view kind, std::string_view name,
                        std::span<const std::string> known, Place place) {
  std::string message = fmt::format("unknown {} '{}'", kind, name);
  std::string advice;
  if (const std::string near = nearest_name(name, known); !near.empty())
    advice = fmt::format("did you mean '{}'? ", near);
  advice += known.empty() ? fmt::format("there is no {} here at all", kind)
                          : fmt::format("known: {}", fmt::join(known, ", "));
  return InputError(std::move(message), std::move(advice), std::move(place));
}

}  // namespace er
