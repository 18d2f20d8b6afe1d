// Counts what is taken from the heap, to hold hot paths to taking nothing.
#pragma once

namespace er::test {

/// How often operator new has been called by this thread.
long allocations();

}  // namespace er::test
