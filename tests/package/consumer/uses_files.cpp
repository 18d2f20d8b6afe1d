#include <elbowroom/collision/inspection.hpp>
#include <elbowroom/files/cell_file.hpp>

#include <cstdio>

int main(int, char** argv) { std::puts(er::inspect(er::load_cell(argv[1])).summary().c_str()); }
