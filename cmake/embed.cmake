# embed_folder(TARGET FOLDER NAME): compiles the files of FOLDER into TARGET, reachable through "NAME.hpp".
function(embed_folder target folder name)
  file(GLOB files CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/${folder}/*)
  set(header ${PROJECT_BINARY_DIR}/embedded/${name}.hpp)
  set(source ${PROJECT_BINARY_DIR}/embedded/${name}.cpp)
  file(WRITE ${header}.new "#pragma once\n#include <span>\n#include <string_view>\n\nstruct EmbeddedFile {\n    std::string_view name;\n    std::string_view content;\n};\n\nstd::span<const EmbeddedFile> ${name}();\n")
  file(COPY_FILE ${header}.new ${header} ONLY_IF_DIFFERENT)
  add_custom_command(OUTPUT ${source}
    COMMAND ${CMAKE_COMMAND} -DOUTPUT=${source} -DNAME=${name} "-DFILES=${files}" -P ${PROJECT_SOURCE_DIR}/cmake/embed_files.cmake
    DEPENDS ${files} ${PROJECT_SOURCE_DIR}/cmake/embed_files.cmake VERBATIM)
  target_sources(${target} PRIVATE ${source})
  target_include_directories(${target} PRIVATE ${PROJECT_BINARY_DIR}/embedded)
endfunction()
