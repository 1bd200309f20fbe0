# embed_files(TARGET NAME FILE...): compiles files into TARGET, reachable through "NAME.hpp".
function(embed_files target name)
  set(files ${ARGN})
  set(header ${PROJECT_BINARY_DIR}/embedded/${name}.hpp)
  set(source ${PROJECT_BINARY_DIR}/embedded/${name}.cpp)
  file(WRITE ${PROJECT_BINARY_DIR}/embedded/embedded_file.hpp.new "#pragma once\n#include <span>\n#include <string_view>\n\nstruct EmbeddedFile {\n    std::string_view name;\n    std::string_view content;\n};\n")
  file(COPY_FILE ${PROJECT_BINARY_DIR}/embedded/embedded_file.hpp.new ${PROJECT_BINARY_DIR}/embedded/embedded_file.hpp ONLY_IF_DIFFERENT)
  file(WRITE ${header}.new "#pragma once\n#include \"embedded_file.hpp\"\n\nstd::span<const EmbeddedFile> ${name}();\n")
  file(COPY_FILE ${header}.new ${header} ONLY_IF_DIFFERENT)
  add_custom_command(OUTPUT ${source}
    COMMAND ${CMAKE_COMMAND} -DOUTPUT=${source} -DNAME=${name} "-DFILES=${files}" -P ${PROJECT_SOURCE_DIR}/cmake/embed_files.cmake
    DEPENDS ${files} ${PROJECT_SOURCE_DIR}/cmake/embed_files.cmake VERBATIM)
  target_sources(${target} PRIVATE ${source})
  # Long literals: what is embedded is as long as it is.
  set_source_files_properties(${source} PROPERTIES COMPILE_OPTIONS "-Wno-overlength-strings" SKIP_PRECOMPILE_HEADERS ON)
  target_include_directories(${target} PRIVATE ${PROJECT_BINARY_DIR}/embedded)
endfunction()

# embed_folder(TARGET FOLDER NAME): all files of a folder.
function(embed_folder target folder name)
  file(GLOB files CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/${folder}/*)
  embed_files(${target} ${name} ${files})
endfunction()
