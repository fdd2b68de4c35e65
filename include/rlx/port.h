/* The port: what the library asks of the machine. One set of functions, found at link time;
 * `port` is the pointer given to rlx_init(), so that one process can hold several boards.
 * None may wait, and none may call the library, but that rlx_port_kick() may take from the link.
 * A call that can be refused for now returns false and is made again at a later poll.
 * A library call is made from rlx_init() or rlx_poll() only, never from an interrupt. */
#ifndef RLX_PORT_H
#define RLX_PORT_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/* Drives a pin to a level. Each call sets the level first and the direction to output second, so
 * that the first one makes no glitch. */
void rlx_port_pin_write(void *port, uint8_t pin, bool high);

/* The level at an input pin now, raw. */
bool rlx_port_pin_read(void *port, uint8_t pin);

enum rlx_pull { RLX_PULL_NONE, RLX_PULL_UP, RLX_PULL_DOWN };

/* Makes a pin an input with this pull, and wakes the main loop when its level changes. */
void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull);

/* Duty of a PWM channel: 0..65535 of a period of 1/hz seconds. 0 and 65535 are static levels,
 * without a pulse. */
void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz);

/* Width of a servo channel's pulse in microseconds; 0: no pulses. */
void rlx_port_pulse(void *port, uint8_t channel, uint16_t us);

/* Sends so many step pulses more on a channel than those that are left of its run, less where
 * `more` is negative, and from now on `hz` of them a second. What is left then is 0..65535;
 * returned is by how much that changed, so that no pulse is counted twice or not at all, whenever
 * it goes out. The first pulse of a run comes 1/hz s after the call. Where one goes on, the next
 * one comes 1/hz s after the last, at once where that is past; 0 left: no more come. A pulse is as
 * long as the motor's driver needs (1 us and more), and ends before 1/hz s. hz: 1..50000; where
 * nothing is left it may be 0. */
int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz);

/* How many pulses of its run are left now; the one that goes out is not. */
uint16_t rlx_port_steps_left(void *port, uint8_t channel);

/* Square wave on a channel in hertz; 0: silence. */
void rlx_port_tone(void *port, uint8_t channel, uint16_t hz);

/* Link number `link` has bytes to send: switch its transmit interrupt on. */
void rlx_port_kick(void *port, uint8_t link);

/* Hands a packet to a radio, or a report to its endpoint; false while it is busy with another: the
 * next poll tries again, and the end of the other one has to wake the main loop for it. The bytes
 * are copied or sent before the call returns. 1..255 bytes. */
bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count);

/* Non-volatile memory: erased bytes read 0xFF; a write can only clear bits. A write begins at a
 * multiple of 8 and has 8 to 208 bytes, a multiple of 8; it may cross a page. The calls start the
 * work, take what is written with them, and return; rlx_port_nv_state() returns when it is over.
 * False: not now (it is busy, or the supply is low); the same call is made again later, after
 * pauses of 1 ms up to 1 s, for as long as it takes, and what is not yet written is reported as
 * unsaved. RLX_NV_FAILED: what was begun last has failed, or there is no such memory; all is
 * written anew to the other area, after pauses of up to 65 s. A read may be refused at the start,
 * too: the settings are then their defaults until it is not. Offsets count from the first byte that
 * the port gives to the library. */
enum rlx_nv { RLX_NV_READY, RLX_NV_BUSY, RLX_NV_FAILED };
bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count);
bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count);
bool rlx_port_nv_erase(void *port, uint16_t offset); /* the page around offset, of any size */
enum rlx_nv rlx_port_nv_state(void *port);

/* A number nobody can foresee, from the machine's noise source. The library calls it never: a
 * sender of sealed frames starts with one. */
uint32_t rlx_port_random(void *port);

#ifdef __cplusplus
}
#endif

#endif
