#include "elbowroom/files/guarded.hpp"

#include <fmt/format.h>

#include <fcntl.h>
#include <poll.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <csignal>
#include <fstream>
#include <new>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

#if defined(__SANITIZE_ADDRESS__)
constexpr bool kShadowed = true;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer)
constexpr bool kShadowed = true;
#else
constexpr bool kShadowed = false;
#endif
#else
constexpr bool kShadowed = false;
#endif

constexpr double kWaits = 10.0;  // times as long as it may compute, on a busy machine
constexpr char kDone = 'y';
constexpr char kRefused = 'n';

// Address space that the process has already.
std::size_t mapped_bytes() {
  std::size_t pages = 0;
  std::ifstream("/proc/self/statm") >> pages;
  return pages * static_cast<std::size_t>(sysconf(_SC_PAGESIZE));
}

void set_limits(const GuardLimits& limits) {
  const auto seconds = static_cast<rlim_t>(std::ceil(limits.seconds));
  const rlimit time{seconds, seconds + 1};
  setrlimit(RLIMIT_CPU, &time);
  const rlimit no_core{0, 0};
  setrlimit(RLIMIT_CORE, &no_core);
  if (kShadowed) return;  // the sanitizer's own memory has no bounds
  const rlim_t bytes = mapped_bytes() + limits.memory;
  const rlimit memory{bytes, bytes};
  setrlimit(RLIMIT_AS, &memory);
}

void write_all(int to, const std::string& bytes) {
  for (std::size_t at = 0; at < bytes.size();) {
    const ssize_t written = write(to, bytes.data() + at, bytes.size() - at);
    if (written < 0 && errno == EINTR) continue;
    if (written <= 0) _exit(1);
    at += static_cast<std::size_t>(written);
  }
}

[[noreturn]] void run_child(const std::function<std::string()>& work, const GuardLimits& limits,
                            int to) {
  for (const int fatal : {SIGSEGV, SIGABRT, SIGBUS, SIGFPE, SIGILL}) std::signal(fatal, SIG_DFL);
  set_limits(limits);
  std::string answer;
  try {
    answer = kDone + work();
  } catch (const InputError& error) {
    answer = kRefused + error.message() + '\0' + error.advice();
  } catch (const std::bad_alloc&) {
    answer = std::string{kRefused} + "it asks for more memory than a file of its size can need" +
             '\0' + "it is broken: write it again";
  } catch (...) {
    _exit(1);
  }
  write_all(to, answer);
  _exit(0);  // nothing of the parent's is flushed or torn down twice
}

// All that the child writes until it ends. One that waits for ever, as for a lock that another
// thread held when this process was copied, is ended when the time is over.
std::string read_all(int from, pid_t child, double seconds) {
  using Clock = std::chrono::steady_clock;
  const auto until = Clock::now() + std::chrono::duration_cast<Clock::duration>(
                                        std::chrono::duration<double>(kWaits * seconds));
  std::string out;
  std::array<char, 65536> block;
  for (;;) {
    const auto left = std::chrono::duration_cast<std::chrono::milliseconds>(until - Clock::now());
    pollfd waiting{from, POLLIN, 0};
    const int ready = poll(&waiting, 1, static_cast<int>(std::max<long>(left.count(), 0)));
    if (ready == 0) kill(child, SIGKILL);
    if (ready <= 0 && errno != EINTR) return out;
    if (ready < 0) continue;
    const ssize_t count = read(from, block.data(), block.size());
    if (count < 0 && errno == EINTR) continue;
    if (count <= 0) return out;
    out.append(block.data(), static_cast<std::size_t>(count));
  }
}

}  // namespace

std::string guarded(const std::function<std::string()>& work, const GuardLimits& limits) {
  std::array<int, 2> ends{};
  if (pipe2(ends.data(), O_CLOEXEC) != 0)
    throw InputError("no pipe could be opened to read this file");
  const pid_t child = fork();
  if (child < 0) {
    close(ends[0]);
    close(ends[1]);
    throw InputError("no process could be started to read this file");
  }
  if (child == 0) {
    close(ends[0]);
    run_child(work, limits, ends[1]);
  }
  close(ends[1]);
  const std::string answer = read_all(ends[0], child, limits.seconds);
  close(ends[0]);
  int status = 0;
  while (waitpid(child, &status, 0) < 0 && errno == EINTR) {
  }
  const char* const kBroken = "it is broken: write it again, or in another format";
  if (WIFSIGNALED(status) && (WTERMSIG(status) == SIGXCPU || WTERMSIG(status) == SIGKILL))
    throw InputError(
        fmt::format("reading it took more than {:.0f} s, and was given up", limits.seconds),
        kBroken);
  if (!WIFEXITED(status) || WEXITSTATUS(status) != 0 || answer.empty())
    throw InputError("it makes its reader fail", kBroken);
  if (answer[0] == kDone) return answer.substr(1);
  const std::size_t middle = answer.find('\0');
  throw InputError(answer.substr(1, middle - 1),
                   middle == answer.npos ? "" : answer.substr(middle + 1));
}

}  // namespace er
