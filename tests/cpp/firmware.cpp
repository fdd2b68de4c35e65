// A firmware in C++ with the library and its tables in C: handlers, port and main loop are C++.
#include <cstdio>
#include <string>

#include "lamp.h"
#include "rlx/port.h"

static lamp device;
static int level = -1;
static bool lit;

int lamp_level(lamp *, uint8_t n)
{
    level = n;
    return 0;
}

void rlx_port_pin_write(void *, uint8_t, bool high)
{
    lit = high;
}

void rlx_port_kick(void *, uint8_t) {}

// What comes back for a line.
static std::string say(const std::string &line)
{
    std::string back;
    for (char c : line + "\n") rlx_link_feed(&device.link[0], static_cast<uint8_t>(c));
    while (rlx_poll(&device.device, 0) == 0) {}
    for (uint8_t byte; rlx_link_take(&device.link[0], &byte);) back += static_cast<char>(byte);
    return back;
}

int main()
{
    if (lamp_init(&device, nullptr, RLX_RESET_POWER) != 0) return 2;
    say("");
    bool ok = say("lamp on") == "ok lamp on\r\n" && lit && say("level 7") == "ok level 7\r\n" && level == 7;
    std::puts(ok ? "C++ firmware: all as it should be" : "C++ firmware: something else came back");
    return !ok;
}
