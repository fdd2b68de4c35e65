
# The same for an ATmega328P: build/chip.elf. Your board's pins go into the lexicon.
add_custom_command(
  OUTPUT ${CMAKE_BINARY_DIR}/chip.elf
  COMMAND ${RLX} emit --bundle --port avr ${CMAKE_SOURCE_DIR}/@NAME@.lexicon -o ${CMAKE_BINARY_DIR}/chip
  COMMAND avr-gcc -mmcu=atmega328p -std=c11 -ffreestanding -Os -mrelax -fno-move-loop-invariants -Wall -Wextra
    -ffunction-sections -fdata-sections -Ichip ${CMAKE_SOURCE_DIR}/firmware.c chip/@NAME@.c chip/port_avr.c
    -Wl,--gc-sections -o chip.elf
  COMMAND avr-size chip.elf
  WORKING_DIRECTORY ${CMAKE_BINARY_DIR}
  DEPENDS firmware.c @NAME@.lexicon VERBATIM)
add_custom_target(chip ALL DEPENDS ${CMAKE_BINARY_DIR}/chip.elf)
