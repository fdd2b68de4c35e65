/* Settings: values that are kept over a power cut. Two areas of non-volatile memory take turns: a
 * change is a record behind the last one, and when an area is full, all of them go to the other
 * one, whose age is written last. A record that a power cut tore has a wrong check, and what was
 * there before holds.
 *
 * An area: a unit with the layout of the settings, a unit with its age and that inverted, then
 * records: number8, count8, the value (4 bytes, or a text's), CRC-16 (ITU-T V.41, from FFFF),
 * filled with FF to whole units. Units are written once. */
#include "core.h"

#if RLX_HAS_SETTINGS

#define UNIT       8u
#define HEADER     (2 * UNIT)
#define RECORD_MAX (RLX_HAS_TEXT ? 208u : UNIT)
#define FREE       0xFFu
#if RLX_NV_AREA
#define AREA(d) RLX_NV_AREA
#else
#define AREA(d) ((d)->nv_area)
#endif

enum { KEEP_IDLE, KEEP_ERASE, KEEP_LAYOUT, KEEP_MOVE, KEEP_AGE, KEEP_TURN };

static uint8_t n_settings(const struct rlx_device *d)
{
    uint16_t at = RLX_ROM16_EVEN(d->image + RLX_IMG_SETTINGS);
    return at ? RLX_ROM8(d->image + at) : 0;
}

static rlx_rom setting_row(const struct rlx_device *d, uint8_t setting)
{
    return rlx_part(d, RLX_IMG_SETTINGS) + 5 + (unsigned)setting * RLX_SET_ROW;
}

static rlx_rom setting_slot(const struct rlx_device *d, uint8_t setting)
{
    return d->image + RLX_ROM16(setting_row(d, setting) + RLX_SET_SLOT);
}

static bool is_text_setting(const struct rlx_device *d, uint8_t setting)
{
    return RLX_HAS_TEXT && RLX_ROM8(setting_slot(d, setting)) == RLX_OP_TEXT;
}

/* Its count8 and bytes. */
static uint8_t *text_of(const struct rlx_device *d, uint8_t setting)
{
    return d->setting_texts + RLX_ROM16(setting_row(d, setting) + RLX_SET_AT);
}

/* ---- values ---- */

static bool value_fits(const struct rlx_device *d, uint8_t setting, rlx_value value)
{
    rlx_rom op = setting_slot(d, setting), entry = op + 2, end = entry + RLX_ROM8(op + 1);
    rlx_value bits = 0;
    uint8_t kind = RLX_ROM8(op);
    if (RLX_HAS_NUMBER && (kind == RLX_OP_NUM16 || kind == RLX_OP_NUM32))
        return value >= rlx_number_low(op) && value <= rlx_number_high(op);
    for (; entry != end; entry = rlx_behind(entry + 1)) {
        uint8_t word = RLX_ROM8(entry);
        if (kind == RLX_OP_CHOICE && word == value) return true;
        if (kind != RLX_OP_CHOICE && word < RLX_SET_NONE) bits = (rlx_value)(bits | 1 << word);
    }
    return kind != RLX_OP_CHOICE && !(value & ~bits);
}

static bool text_fits(const struct rlx_device *d, uint8_t setting, const uint8_t *text,
                      uint8_t count)
{
    rlx_rom op = setting_slot(d, setting);
    if (count < RLX_ROM8(op + 1) || count > RLX_ROM8(op + 2)) return false;
    for (uint8_t i = 0; i < count; i++)
        if (text[i] < ' ' || text[i] > '~' || text[i] == '"') return false;
    return true;
}

static void set_text(struct rlx_device *d, uint8_t setting, const uint8_t *text, uint8_t count)
{
    uint8_t *to = text_of(d, setting);
    *to++ = count;
    while (count--) *to++ = *text++;
}

static void set_standard(struct rlx_device *d, uint8_t setting)
{
    uint32_t value = rlx_rom32(setting_row(d, setting) + RLX_SET_VALUE);
    if (!is_text_setting(d, setting)) {
        d->settings[setting] = (rlx_value)value;
        return;
    }
    rlx_rom from = d->image + value;
    uint8_t *to = text_of(d, setting), count = RLX_ROM8(from);
    for (uint8_t i = 0; i <= count; i++) to[i] = RLX_ROM8(from + i);
}

static bool same_text(const struct rlx_device *d, uint8_t setting, const uint8_t *text,
                      uint8_t count)
{
    const uint8_t *was = text_of(d, setting);
    if (*was++ != count) return false;
    while (count--)
        if (*was++ != *text++) return false;
    return true;
}

RLX_INTERNAL int rlx_setting_store(struct rlx_device *d, uint8_t setting, rlx_value value)
{
    if (is_text_setting(d, setting)) {
        const uint8_t *text = rlx_frame_text(d->link) + (uint8_t)(value >> 8);
        if (same_text(d, setting, text, (uint8_t)value)) return RLX_ALREADY;
        set_text(d, setting, text, (uint8_t)value);
    } else {
        if (d->settings[setting] == value) return RLX_ALREADY;
        d->settings[setting] = value;
    }
    d->keep.unsaved |= UINT32_C(1) << setting;
#if RLX_HAS_CURVE
    rlx_outputs_curved(d, setting);
#endif
    return 0;
}

rlx_value rlx_setting(const struct rlx_device *d, uint8_t setting)
{
    return d->settings[setting];
}

const char *rlx_setting_text(const struct rlx_device *d, uint8_t setting, uint8_t *count)
{
    const uint8_t *text = text_of(d, setting);
    *count = *text;
    return (const char *)text + 1;
}

bool rlx_setting_unsaved(const struct rlx_device *d, uint8_t setting)
{
    const struct rlx_keep *k = &d->keep;
    return k->step != KEEP_IDLE || ((k->unsaved | k->moving) >> setting & 1);
}

#if RLX_HAS_SMS
RLX_INTERNAL uint8_t *rlx_setting_record(const struct rlx_device *d, uint8_t setting)
{
    return text_of(d, setting);
}

RLX_INTERNAL void rlx_setting_changed(struct rlx_device *d, uint8_t setting)
{
    d->keep.unsaved |= UINT32_C(1) << setting;
}
#endif

/* ---- records ---- */

static uint16_t crc_of(const uint8_t *bytes, uint8_t count)
{
    uint16_t crc = 0xFFFF;
    while (count--) crc = rlx_crc_step(crc, *bytes++);
    return crc;
}

static uint8_t record_size(uint8_t count)
{
    return (uint8_t)((count + 4u + UNIT - 1) / UNIT * UNIT);
}

/* Returns its size. */
static uint8_t write_record(const struct rlx_device *d, uint8_t setting, uint8_t *to)
{
    uint8_t count = 4, size;
    if (is_text_setting(d, setting)) {
        const uint8_t *text = text_of(d, setting);
        count = *text++;
        if (count > RECORD_MAX - 4) count = RECORD_MAX - 4; /* never: no slot is as long */
        for (uint8_t i = 0; i < count; i++) to[2 + i] = text[i];
    } else {
        uint32_t value = (uint32_t)(int32_t)d->settings[setting];
        for (uint8_t i = 0; i < 4; i++) to[2 + i] = (uint8_t)(value >> 8 * i);
    }
    to[0] = setting;
    to[1] = count;
    uint16_t crc = crc_of(to, (uint8_t)(count + 2));
    to[count + 2] = (uint8_t)crc;
    to[count + 3] = (uint8_t)(crc >> 8);
    size = record_size(count);
    for (uint8_t i = (uint8_t)(count + 4); i < size; i++) to[i] = FREE;
    return size;
}

static void take_record(struct rlx_device *d, const uint8_t *record)
{
    uint8_t setting = record[0], count = record[1];
    if (setting >= n_settings(d)) return;
    if (is_text_setting(d, setting)) {
        if (text_fits(d, setting, record + 2, count)) set_text(d, setting, record + 2, count);
        return;
    }
    uint32_t value = record[2] | (uint32_t)record[3] << 8 | (uint32_t)record[4] << 16 |
                     (uint32_t)record[5] << 24;
    if (count == 4 && value_fits(d, setting, (rlx_value)value))
        d->settings[setting] = (rlx_value)value;
}

/* ---- the memory ---- */

static uint16_t area_at(const struct rlx_device *d, uint8_t area)
{
    (void)d;
    return (uint16_t)(area * AREA(d));
}

/* The first unit from `at` on that is not erased, or cannot be read; `end`: all are. */
static uint16_t first_used(const struct rlx_device *d, uint16_t at, uint16_t end)
{
    uint8_t unit[UNIT];
    for (; at < end; at = (uint16_t)(at + UNIT)) {
        if (!rlx_port_nv_read(d->port, at, unit, UNIT)) return at;
        for (uint8_t i = 0; i < UNIT; i++)
            if (unit[i] != FREE) return at;
    }
    return end;
}

/* Whether the area is whole and holds settings of this lexicon. */
static bool read_age(struct rlx_device *d, uint8_t area, uint8_t *age)
{
    uint8_t unit[HEADER];
    if (!rlx_port_nv_read(d->port, area_at(d, area), unit, HEADER)) {
        d->keep.none = true;
        return false;
    }
    rlx_rom layout = rlx_part(d, RLX_IMG_SETTINGS) + 1;
    for (uint8_t i = 0; i < 4; i++)
        if (unit[i] != RLX_ROM8(layout + i)) return false;
    *age = unit[UNIT];
    return (unit[UNIT + 1] ^ unit[UNIT]) == 0xFF;
}

/* Takes what it holds; where the next record goes, or the area's end where a torn one stands. */
static uint16_t read_records(struct rlx_device *d, uint8_t area)
{
    uint8_t record[RECORD_MAX];
    uint16_t at = HEADER, base = area_at(d, area);
    while (at + UNIT <= AREA(d)) {
        if (!rlx_port_nv_read(d->port, (uint16_t)(base + at), record, UNIT)) break;
        uint8_t count = record[1], size = record_size(count);
        if (record[0] == FREE) {
            uint16_t end = (uint16_t)(base + AREA(d));
            return first_used(d, (uint16_t)(base + at), end) == end ? at : AREA(d);
        }
        if (count > RECORD_MAX - 4 || at + size > AREA(d) ||
            !rlx_port_nv_read(d->port, (uint16_t)(base + at), record, size))
            break;
        uint16_t crc = crc_of(record, (uint8_t)(count + 2));
        if (record[count + 2] != (uint8_t)crc || record[count + 3] != crc >> 8) break;
        take_record(d, record);
        at = (uint16_t)(at + size);
    }
    return AREA(d);
}

RLX_INTERNAL void rlx_settings_init(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint8_t ages[2] = {0, 0};
    for (uint8_t i = 0; i < n_settings(d); i++) set_standard(d, i);
    if (!n_settings(d)) return;
    bool first = read_age(d, 0, &ages[0]), second = read_age(d, 1, &ages[1]);
    k->area = second && (!first || (int8_t)(uint8_t)(ages[1] - ages[0]) > 0);
    k->age = ages[k->area];
    k->used = first || second ? read_records(d, k->area) : AREA(d);
}

/* ---- writing, a step a poll ---- */

static bool put_record(struct rlx_device *d, uint8_t area, uint8_t setting)
{
    uint8_t record[RECORD_MAX], size = write_record(d, setting, record);
    uint16_t at = d->keep.used;
    if (at + size > AREA(d)) return false;
    d->keep.used = (uint16_t)(at + size);
    return rlx_port_nv_write(d->port, (uint16_t)(area_at(d, area) + at), record, size);
}

static uint8_t lowest(uint32_t bits)
{
    uint8_t n = 0;
    while (!(bits >> n & 1)) n++;
    return n;
}

/* A unit with these bytes. */
static bool put_unit(struct rlx_device *d, uint16_t at, const uint8_t *bytes, uint8_t count)
{
    uint8_t unit[UNIT];
    for (uint8_t i = 0; i < UNIT; i++) unit[i] = i < count ? bytes[i] : FREE;
    return rlx_port_nv_write(d->port, at, unit, UNIT);
}

static bool put_layout(struct rlx_device *d, uint8_t area)
{
    rlx_rom layout = rlx_part(d, RLX_IMG_SETTINGS) + 1;
    uint8_t bytes[4];
    for (uint8_t i = 0; i < 4; i++) bytes[i] = RLX_ROM8(layout + i);
    return put_unit(d, area_at(d, area), bytes, sizeof bytes);
}

static bool put_age(struct rlx_device *d, uint8_t area)
{
    uint8_t age = (uint8_t)(d->keep.age + 1), bytes[2] = {age, (uint8_t)~age};
    return put_unit(d, (uint16_t)(area_at(d, area) + UNIT), bytes, sizeof bytes);
}

/* Erases the next page of the area that is not yet; its first unit goes first, so that what is half
 * erased is nobody's. false: the memory refuses, or keeps what it has. */
static bool erase_next(struct rlx_device *d, uint8_t area)
{
    struct rlx_keep *k = &d->keep;
    uint16_t base = area_at(d, area), end = (uint16_t)(base + AREA(d));
    uint16_t at = first_used(d, base, end);
    if (at == end) {
        k->step++;
        return true;
    }
    if (at - base < k->used) return false;
    k->used = (uint16_t)(at - base + UNIT);
    return rlx_port_nv_erase(d->port, at);
}

/* The next step towards the other area; false: the memory refuses. */
static bool go_on_moving(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint8_t other = !k->area;
    switch (k->step) {
    case KEEP_ERASE: return erase_next(d, other);
    case KEEP_LAYOUT:
        k->step++;
        k->used = HEADER;
        k->unsaved = 0;
        k->moving = UINT32_MAX >> (32 - n_settings(d));
        return put_layout(d, other);
    case KEEP_MOVE: {
        uint8_t setting = lowest(k->moving);
        k->moving &= k->moving - 1;
        if (!k->moving) k->step++;
        return put_record(d, other, setting);
    }
    case KEEP_AGE: k->step++; return put_age(d, other);
    default: /* KEEP_TURN: its age stands */
        k->area = other;
        k->age++;
        k->step = KEEP_IDLE;
        return true;
    }
}

/* Writes one that has changed behind the others, or begins to move them all. */
static bool save_one(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint8_t setting = lowest(k->unsaved);
    uint8_t count = is_text_setting(d, setting) ? *text_of(d, setting) : 4;
    if (k->used + record_size(count) > AREA(d)) {
        k->step = KEEP_ERASE;
        k->used = 0; /* so much of the other one is erased */
        return true;
    }
    k->moving = UINT32_C(1) << setting;
    k->unsaved &= ~k->moving;
    return put_record(d, k->area, setting);
}

RLX_INTERNAL uint32_t rlx_settings_run(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    if (k->none || (!k->unsaved && !k->moving && k->step == KEEP_IDLE)) return RLX_FOREVER;
    enum rlx_nv state = rlx_port_nv_state(d->port);
    if (state == RLX_NV_BUSY) return 1;
    bool done = state == RLX_NV_READY;
    if (done && k->step != KEEP_IDLE) {
        done = go_on_moving(d);
    } else if (done) {
        k->moving = 0; /* it is written */
        done = !k->unsaved || save_one(d);
    }
    if (!done) { /* what it holds is what was there before: told as unsaved from now on */
        k->none = true;
        k->unsaved |= k->moving;
        return RLX_FOREVER;
    }
    return k->unsaved || k->moving || k->step != KEEP_IDLE ? 1 : RLX_FOREVER;
}

#if RLX_HAS_BUILT_IN
RLX_INTERNAL void rlx_setting_told(struct rlx_device *d, uint8_t setting)
{
    rlx_rom op = setting_slot(d, setting);
    if (is_text_setting(d, setting)) {
        uint8_t count;
        const char *text = rlx_setting_text(d, setting, &count);
        rlx_reply_words(d, " \"");
        while (count--) rlx_reply_put(d, (uint8_t)*text++);
        rlx_reply_put(d, '"');
    } else {
        rlx_tell_value(d, &op, d->settings[setting]);
    }
    if (rlx_setting_unsaved(d, setting)) rlx_reply_words(d, " unsaved");
}
#endif
#endif
