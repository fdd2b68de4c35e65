# Before a Debian package is put together: manual pages and the changelog are compressed (Debian Policy 12.1, 12.7), and
# no empty folders are left.
file(GLOB_RECURSE pages ${CPACK_TEMPORARY_DIRECTORY}/*.1 ${CPACK_TEMPORARY_DIRECTORY}/changelog)
foreach(page ${pages})
  execute_process(COMMAND gzip -9n ${page} COMMAND_ERROR_IS_FATAL ANY)
endforeach()
execute_process(COMMAND find ${CPACK_TEMPORARY_DIRECTORY} -type d -empty -delete COMMAND_ERROR_IS_FATAL ANY)
