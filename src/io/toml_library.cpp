// toml++, compiled here once.
#define TOML_IMPLEMENTATION
#include "io/toml_reader.hpp"
