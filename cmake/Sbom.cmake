# What the tool is made of, as SPDX 2.3 (JSON): this project, and each library that it is linked with, in the version that
# the build found. The firmware's side is this project alone.
function(sbom file)
  set(packages)
  set(links)
  string(TIMESTAMP made "%Y-%m-%dT%H:%M:%SZ" UTC)
  foreach(row "GLIB GLib LGPL-2.1-or-later" "JANSSON Jansson MIT" "EDIT libedit BSD-3-Clause"
      "SERIALPORT libserialport LGPL-3.0-or-later" "CAIRO Cairo LGPL-2.1-only" "LIBXML libxml2 MIT" "SOUP libsoup LGPL-2.0-or-later")
    string(REPLACE " " ";" row ${row})
    list(GET row 0 id)
    list(GET row 1 name)
    list(GET row 2 licence)
    set(version ${${id}_VERSION})
    if(NOT ${id}_FOUND)
      continue()
    endif()
    string(APPEND packages ",\n  {\"SPDXID\": \"SPDXRef-${id}\", \"name\": \"${name}\", \"versionInfo\": \"${version}\", "
      "\"downloadLocation\": \"NOASSERTION\", \"filesAnalyzed\": false, \"licenseConcluded\": \"NOASSERTION\", "
      "\"licenseDeclared\": \"${licence}\", \"copyrightText\": \"NOASSERTION\"}")
    string(APPEND links ",\n  {\"spdxElementId\": \"SPDXRef-rlx\", \"relationshipType\": \"DYNAMIC_LINK\", "
      "\"relatedSpdxElement\": \"SPDXRef-${id}\"}")
  endforeach()
  file(CONFIGURE OUTPUT ${file} CONTENT [=[{
 "spdxVersion": "SPDX-2.3",
 "dataLicense": "CC0-1.0",
 "SPDXID": "SPDXRef-DOCUMENT",
 "name": "ready-lexicon-@PROJECT_VERSION@",
 "documentNamespace": "https://ready-lexicon.example/spdx/@PROJECT_VERSION@@sbom_commit@",
 "creationInfo": {"created": "@made@", "creators": ["Organization: The Ready Lexicon authors", "Tool: the project's CMake build"]},
 "packages": [
  {"SPDXID": "SPDXRef-rlx", "name": "ready-lexicon", "versionInfo": "@PROJECT_VERSION@", "downloadLocation": "NOASSERTION", "filesAnalyzed": false, "licenseConcluded": "MIT", "licenseDeclared": "MIT", "copyrightText": "Copyright (c) 2026 The Ready Lexicon authors"}@packages@
 ],
 "relationships": [
  {"spdxElementId": "SPDXRef-DOCUMENT", "relationshipType": "DESCRIBES", "relatedSpdxElement": "SPDXRef-rlx"}@links@
 ]
}
]=] @ONLY)
endfunction()
string(REGEX REPLACE "^, commit " "-" sbom_commit "${commit}")
sbom(${CMAKE_CURRENT_BINARY_DIR}/ready-lexicon.spdx.json)
