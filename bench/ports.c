/* A board without pins and radios, for builds that have them and do not use them. */
#include "rlx/port.h"

void rlx_port_pin_write(void *port, uint8_t pin, bool high)
{
    (void)port, (void)pin, (void)high;
}

void rlx_port_duty(void *port, uint8_t channel, uint16_t duty, uint32_t hz)
{
    (void)port, (void)channel, (void)duty, (void)hz;
}

bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *bytes, uint8_t count)
{
    (void)port, (void)link, (void)bytes, (void)count;
    return true;
}

bool rlx_port_pin_read(void *port, uint8_t pin)
{
    (void)port, (void)pin;
    return false;
}

void rlx_port_pin_watch(void *port, uint8_t pin, enum rlx_pull pull)
{
    (void)port, (void)pin, (void)pull;
}

void rlx_port_pulse(void *port, uint8_t channel, uint16_t us)
{
    (void)port, (void)channel, (void)us;
}

int32_t rlx_port_steps(void *port, uint8_t channel, int32_t more, uint16_t hz)
{
    (void)port, (void)channel, (void)hz;
    return more;
}

uint16_t rlx_port_steps_left(void *port, uint8_t channel)
{
    (void)port, (void)channel;
    return 0;
}

void rlx_port_tone(void *port, uint8_t channel, uint16_t hz)
{
    (void)port, (void)channel, (void)hz;
}

bool rlx_port_nv_read(void *port, uint16_t offset, uint8_t *bytes, uint8_t count)
{
    (void)port, (void)offset, (void)bytes, (void)count;
    return false;
}

bool rlx_port_nv_write(void *port, uint16_t offset, const uint8_t *bytes, uint8_t count)
{
    (void)port, (void)offset, (void)bytes, (void)count;
    return false;
}

bool rlx_port_nv_erase(void *port, uint16_t offset)
{
    (void)port, (void)offset;
    return false;
}

enum rlx_nv rlx_port_nv_state(void *port)
{
    (void)port;
    return RLX_NV_FAILED;
}
