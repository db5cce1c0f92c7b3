# Where things go on a Debian system, and the package: `cpack --config build/release/CPackConfig.cmake`, or tools/package.
include(GNUInstallDirs)
install(TARGETS rasoir rasoir-cli RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
install(TARGETS rasoir-paper RUNTIME DESTINATION lib/rasoir)
install(TARGETS rasoir_python LIBRARY DESTINATION lib/python3/dist-packages)
install(FILES packaging/rasoir.desktop DESTINATION ${CMAKE_INSTALL_DATADIR}/applications)
install(FILES app/resources/rasoir.svg DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/scalable/apps)
install(FILES packaging/rasoir.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/mime/packages)
install(FILES packaging/rasoir.metainfo.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/metainfo)
install(FILES packaging/rasoir-cli.bash-completion DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions
  RENAME rasoir-cli)
install(FILES docs/user-guide.md README.md DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(FILES packaging/copyright DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(DIRECTORY demo-data/ DESTINATION ${CMAKE_INSTALL_DOCDIR}/examples FILES_MATCHING PATTERN "*.step" PATTERN "*.json")

# Manual pages and the list of changes are packed, as Debian wants them; gzip without a date makes the same file each time.
find_program(GZIP gzip REQUIRED)
foreach(page rasoir.1 rasoir-cli.1)
  add_custom_command(OUTPUT ${page}.gz COMMAND ${GZIP} -9nc ${CMAKE_SOURCE_DIR}/packaging/${page} > ${page}.gz
    DEPENDS ${CMAKE_SOURCE_DIR}/packaging/${page} VERBATIM)
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/${page}.gz DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
  list(APPEND packed ${CMAKE_CURRENT_BINARY_DIR}/${page}.gz)
endforeach()
add_custom_command(OUTPUT changelog.gz COMMAND ${GZIP} -9nc ${CMAKE_SOURCE_DIR}/packaging/changelog > changelog.gz
  DEPENDS ${CMAKE_SOURCE_DIR}/packaging/changelog VERBATIM)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/changelog.gz DESTINATION ${CMAKE_INSTALL_DOCDIR})
add_custom_target(packed_pages ALL DEPENDS ${packed} ${CMAKE_CURRENT_BINARY_DIR}/changelog.gz)

set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME rasoir)
set(CPACK_PACKAGE_CONTACT "The Rasoir maintainers <maintainers@rasoir.example>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "prepares CAD geometry for analysis")
set(CPACK_DEBIAN_PACKAGE_DESCRIPTION
  "Repairs imported geometry, removes holes, rounds and other small features,
extracts sheets and beams, divides bodies, gives parts common faces, and hands
the result over with groups, materials, a check and a trial mesh.
.
The window is rasoir; rasoir-cli does the same in scripts.")
set(CPACK_DEBIAN_PACKAGE_SECTION science)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_DEPENDS "qt6-qpa-plugins, fonts-inter, python3 (>= 3.11), python3 (<< 3.12)")
set(CPACK_DEBIAN_PACKAGE_CONTROL_STRICT_PERMISSION ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_STRIP_FILES ON)
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_INSTALL_DEFAULT_DIRECTORY_PERMISSIONS
  OWNER_READ OWNER_WRITE OWNER_EXECUTE GROUP_READ GROUP_EXECUTE WORLD_READ WORLD_EXECUTE)
include(CPack)
