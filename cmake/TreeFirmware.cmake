# The library in one file, for the tests: many programs, each compiled for one lexicon, that run for moments.
function(library_unoptimized)
  set_source_files_properties(${PROJECT_SOURCE_DIR}/src/rlx.c PROPERTIES COMPILE_OPTIONS
    "$<$<CONFIG:Debug>:-O0>;$<$<BOOL:${RLX_SANITIZE}>:-fsanitize=undefined>")
endfunction()

# tree_firmware(TARGET LEXICON FILE [NAME NAME] SOURCES FILE...); NAME: the lexicon's, where its file has another
# For this tree's own examples and tests, a firmware program on the simulated port with the library as it stands here:
# emits the lexicon's C and compiles the library with
# just the features that lexicon needs.
function(tree_firmware target)
  cmake_path(GET CMAKE_CURRENT_FUNCTION_LIST_DIR PARENT_PATH rlx) # the library's own tree, whoever calls
  cmake_parse_arguments(ARG "" "LEXICON;NAME" "SOURCES" ${ARGN})
  get_filename_component(lexicon ${ARG_LEXICON} ABSOLUTE)
  get_filename_component(name ${lexicon} NAME_WE)
  if(ARG_NAME)
    set(name ${ARG_NAME})
  endif()
  set(dir ${CMAKE_CURRENT_BINARY_DIR}/${target}_emitted)
  add_custom_command(
    OUTPUT ${dir}/${name}.c ${dir}/${name}.h ${dir}/${name}_config.h
    COMMAND rlx emit ${lexicon} -o ${dir}
    DEPENDS rlx ${lexicon}
    VERBATIM)
  add_executable(${target} ${ARG_SOURCES} ${dir}/${name}.c ${rlx}/src/rlx.c
    ${rlx}/ports/sim/process.c)
  target_include_directories(${target} PRIVATE ${rlx}/include
    ${rlx}/ports ${dir})
  target_compile_definitions(${target} PRIVATE RLX_CONFIG="${name}_config.h" _DEFAULT_SOURCE)
  target_link_libraries(${target} PRIVATE rlx_sim)
  set_target_properties(${target} PROPERTIES RUNTIME_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/bin)
endfunction()
