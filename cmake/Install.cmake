# What is installed: the tool, which has the library's sources in it, a package for other projects, and a Debian
# package of all of it (cpack -G DEB).
set(CMAKE_INSTALL_DOCDIR share/doc/ready-lexicon CACHE PATH "where the pages go")
include(GNUInstallDirs)
include(CMakePackageConfigHelpers)
set(package_dir ${CMAKE_INSTALL_DATADIR}/cmake/ReadyLexicon)
set(share ${CMAKE_INSTALL_DATADIR}/ready-lexicon)
configure_package_config_file(cmake/ReadyLexiconConfig.cmake.in ReadyLexiconConfig.cmake
  INSTALL_DESTINATION ${package_dir} PATH_VARS CMAKE_INSTALL_BINDIR NO_CHECK_REQUIRED_COMPONENTS_MACRO)
write_basic_package_version_file(ReadyLexiconConfigVersion.cmake COMPATIBILITY SameMinorVersion ARCH_INDEPENDENT)
configure_file(cmake/ready-lexicon.pc.in ready-lexicon.pc @ONLY)

install(TARGETS rlx)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/ReadyLexiconConfig.cmake ${CMAKE_CURRENT_BINARY_DIR}/ReadyLexiconConfigVersion.cmake
  cmake/RlxFirmware.cmake DESTINATION ${package_dir})
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/ready-lexicon.pc DESTINATION ${CMAKE_INSTALL_DATADIR}/pkgconfig)
install(DIRECTORY include/rlx DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(DIRECTORY src DESTINATION ${share})
install(DIRECTORY ports DESTINATION ${share} USE_SOURCE_PERMISSIONS)
install(DIRECTORY examples/ DESTINATION ${CMAKE_INSTALL_DOCDIR}/examples
  FILES_MATCHING REGEX "\\.(lexicon|scene|world|c|txt)$" PATTERN CMakeLists.txt EXCLUDE)
install(FILES README.md SECURITY.md CHANGELOG.md DESTINATION ${CMAKE_INSTALL_DOCDIR})
include(cmake/Sbom.cmake)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/ready-lexicon.spdx.json DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(FILES LICENSE DESTINATION ${CMAKE_INSTALL_DOCDIR} RENAME copyright)
string(TIMESTAMP today "%a, %d %b %Y %H:%M:%S +0000" UTC)
configure_file(cmake/changelog.in changelog @ONLY)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/changelog DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(DIRECTORY docs/ DESTINATION ${CMAKE_INSTALL_DOCDIR}/docs FILES_MATCHING PATTERN *.md PATTERN screenshots EXCLUDE)
install(DIRECTORY ${described}/ DESTINATION ${CMAKE_INSTALL_MANDIR}/man1 FILES_MATCHING PATTERN *.1)
install(FILES ${described}/rlx.bash DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions RENAME rlx)
install(FILES ${described}/_rlx DESTINATION ${CMAKE_INSTALL_DATADIR}/zsh/vendor-completions)
install(FILES ${described}/rlx.fish DESTINATION ${CMAKE_INSTALL_DATADIR}/fish/vendor_completions.d)
install(DIRECTORY ${described}/ DESTINATION ${share}/editor FILES_MATCHING PATTERN *.json)
install(FILES docs/card.schema.json DESTINATION ${share})

set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME ready-lexicon)
set(CPACK_PACKAGE_VENDOR "The Ready Lexicon authors")
set(CPACK_PACKAGE_CONTACT "The Ready Lexicon authors <authors@ready-lexicon.example>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "text commands for microcontrollers: design, try and test them")
set(CPACK_PACKAGE_DESCRIPTION "From one file, the lexicon, rlx makes the command parser of a firmware and its
reference card, and simulates the board and its links, so that each command
is tried over serial, radio and text messages before there is a board.
The C11 library for the chip is in the tool and beside it.")
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SECTION devel)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_RECOMMENDS "gcc | c-compiler, cmake | make")
set(CPACK_DEBIAN_PACKAGE_SUGGESTS "gcc-arm-none-eabi, gcc-avr, gcc-riscv64-unknown-elf, picocom")
set(CPACK_PRE_BUILD_SCRIPTS ${PROJECT_SOURCE_DIR}/cmake/Compress.cmake)
include(CPack)
