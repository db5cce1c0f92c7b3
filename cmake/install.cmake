include(GNUInstallDirs)
install(TARGETS rasoir rasoir-cli RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
install(FILES app/resources/rasoir.desktop DESTINATION ${CMAKE_INSTALL_DATADIR}/applications)
install(FILES app/resources/rasoir.svg DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/scalable/apps)
