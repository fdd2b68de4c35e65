
# The same for an ATmega328P. Your board's pins go into the lexicon.
build/chip.elf: firmware.c @NAME@.lexicon
	$(RLX) emit --bundle --port avr @NAME@.lexicon -o build/chip
	avr-gcc -mmcu=atmega328p -std=c11 -ffreestanding -Os -mrelax -fno-move-loop-invariants -Wall -Wextra \
	    -ffunction-sections -fdata-sections -Ibuild/chip firmware.c build/chip/@NAME@.c build/chip/port_avr.c \
	    -Wl,--gc-sections -o $@
	avr-size $@
