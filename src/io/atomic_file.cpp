#include "hollow_probe/io/atomic_file.hpp"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace hollow_probe {
namespace {

namespace fs = std::filesystem;

[[noreturn]] void fail(const std::string& path, const std::string& why) {
    throw InputError(path + ":1:1: " + why);
}

}  // namespace

void write_file(const std::string& path, std::string_view content) {
    std::error_code ignored;
    if (fs::is_directory(path, ignored))
        fail(path, "cannot be written: it is a folder, expected a file name");
    // Devices and pipes are written to directly: they must not be replaced by a file.
    const bool special = fs::exists(path, ignored) && !fs::is_regular_file(path, ignored);
    const std::string temporary = special ? path : path + "." + std::to_string(getpid()) + ".part";
    {
        std::ofstream out(temporary, std::ios::binary | std::ios::trunc);
        if (!out) fail(path, std::string("cannot be written: ") + std::strerror(errno));
        out.write(content.data(), static_cast<std::streamsize>(content.size()));
        out.flush();
        if (!out) {
            const std::string why = std::strerror(errno);
            if (!special) fs::remove(temporary, ignored);
            fail(path, "cannot be written: " + why);
        }
    }
    if (special) return;
    std::error_code error;
    fs::rename(temporary, path, error);
    if (error) {
        fs::remove(temporary, ignored);
        fail(path, "cannot be written: " + error.message());
    }
}

std::string read_file(const std::string& path, std::size_t most_bytes) {
    std::error_code error;
    const auto status = fs::status(path, error);
    if (!fs::exists(status)) fail(path, "there is no such file, expected one to read");
    if (fs::is_directory(status)) fail(path, "is a folder, expected a file");
    if (!fs::is_regular_file(status)) fail(path, "is not a regular file");
    const auto size = fs::file_size(path, error);
    if (error) fail(path, "cannot be read: " + error.message());
    if (size > most_bytes) {
        fail(path, "has " + std::to_string(size) + " bytes, expected at most " + std::to_string(most_bytes));
    }
    std::ifstream in(path, std::ios::binary);
    if (!in) fail(path, std::string("cannot be read: ") + std::strerror(errno));
    std::string content(size, '\0');
    in.read(content.data(), static_cast<std::streamsize>(size));
    content.resize(static_cast<std::size_t>(in.gcount()));
    if (in.bad()) fail(path, "cannot be read");
    return content;
}

}  // namespace hollow_probe
