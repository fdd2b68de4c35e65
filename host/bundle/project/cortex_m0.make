
# The same for a Cortex-M0 with the registers of an nRF51. Your chip's port goes here.
build/chip.elf: firmware.c @NAME@.lexicon
	$(RLX) emit --bundle --port cortex_m0 @NAME@.lexicon -o build/chip
	arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb -std=c11 -ffreestanding -Os -Wall -Wextra -ffunction-sections \
	    -fdata-sections -Ibuild/chip firmware.c build/chip/@NAME@.c build/chip/port_cortex_m0.c -nostdlib \
	    -Wl,--gc-sections -T build/chip/nrf51.ld -lgcc -o $@
	arm-none-eabi-size $@
