
# The same for @CHIP@. Your chip's port goes here.
build/chip.elf: firmware.c @NAME@.lexicon
	$(RLX) emit --bundle --port @PORT@ @NAME@.lexicon -o build/chip
	cd build && @TOOLS@-gcc @OPTIONS@ \
	    -std=c11 -ffreestanding -Os -Wall -Wextra -ffunction-sections -fdata-sections -Ichip \
	    ../firmware.c chip/@NAME@.c chip/port_@PORT@.c @LINK@ -Wl,--gc-sections -lgcc -o chip.elf
	@TOOLS@-size $@
