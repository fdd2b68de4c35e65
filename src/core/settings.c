/* Settings: values that are kept over a power cut. Two areas of non-volatile memory take turns: a
 * change is a record behind the last one, and when an area is full, all of them go to the other
 * one, whose age is written last. A record that a power cut tore has a wrong check, and what was
 * there before holds.
 *
 * Each call of the port that is refused is made again later, after pauses that grow; what failed is
 * begun anew in the other area. Until all is written the reply is `unsaved`.
 *
 * An area: a unit with the layout of the settings and the number of erases, if that is counted; a
 * unit with its age and that inverted; then records: number8, count8, the value (4 bytes, or a
 * text's), CRC-16 (ITU-T V.41, from FFFF), filled with FF to whole units. Units are written once.
 */
#include "core.h"

#if RLX_HAS_SETTINGS

#define UNIT       8u
#define HEADER     (2 * UNIT)
#define RECORD_MAX (RLX_HAS_TEXT ? 208u : UNIT)
#define FREE       0xFFu
#if RLX_NV_AREA_BYTES
#define AREA(d) RLX_NV_AREA_BYTES
#else
#define AREA(d) ((d)->nv_area)
#endif

enum { KEEP_IDLE, KEEP_LOAD, KEEP_ERASE, KEEP_LAYOUT, KEEP_MOVE, KEEP_AGE, KEEP_TURN };

static uint8_t n_settings(const struct rlx_device *d)
{
    return rlx_rows_of(d, RLX_IMG_SETTINGS);
}

static rlx_rom setting_row(const struct rlx_device *d, uint8_t setting)
{
    return rlx_part(d, RLX_IMG_SETTINGS) + 5 + (unsigned)setting * RLX_SET_ROW;
}

static rlx_rom setting_slot(const struct rlx_device *d, uint8_t setting)
{
    return rlx_image(d) + RLX_ROM16(setting_row(d, setting) + RLX_SET_SLOT);
}

static bool is_text_setting(const struct rlx_device *d, uint8_t setting)
{
    return RLX_HAS_TEXT && RLX_ROM8(setting_slot(d, setting)) == RLX_OP_TEXT;
}

/* Its count8 and bytes. */
static uint8_t *text_of(const struct rlx_device *d, uint8_t setting)
{
    uint16_t at = RLX_ROM16(setting_row(d, setting) + RLX_SET_AT);
#if RLX_HAS_HIDDEN
    at &= RLX_SET_HIDDEN - 1u;
#endif
    return rlx_setting_texts(d) + at;
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
        *rlx_setting_at(d, setting) = (rlx_value)value;
        return;
    }
    rlx_rom from = rlx_image(d) + value;
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
        const uint8_t *text = rlx_frame_text(rlx_current(d)) + (uint8_t)(value >> 8);
        if (same_text(d, setting, text, (uint8_t)value)) return RLX_ALREADY;
        set_text(d, setting, text, (uint8_t)value);
    } else {
        if (*rlx_setting_at(d, setting) == value) return RLX_ALREADY;
        *rlx_setting_at(d, setting) = value;
    }
    d->keep.unsaved |= UINT32_C(1) << setting;
#if RLX_HAS_CURVE
    rlx_outputs_curved(d, setting);
#endif
    return 0;
}

#if RLX_TRIES_BOUNDS
RLX_INTERNAL void rlx_settings_copy(const struct rlx_device *d, rlx_value *to)
{
    for (uint8_t i = 0; i < n_settings(d); i++) to[i] = *rlx_setting_at(d, i);
}

RLX_INTERNAL void rlx_setting_try(struct rlx_device *d, uint8_t setting, rlx_value value)
{
    if (!is_text_setting(d, setting)) *rlx_setting_at(d, setting) = value;
}

RLX_INTERNAL void rlx_settings_put_back(struct rlx_device *d, const rlx_value *from)
{
    for (uint8_t i = 0; i < n_settings(d); i++) *rlx_setting_at(d, i) = from[i];
}
#endif

static bool has_setting(const struct rlx_device *d, uint8_t setting, bool text)
{
    return rlx_started(d) && setting < n_settings(d) && is_text_setting(d, setting) == text;
}

rlx_value rlx_setting(const struct rlx_device *d, uint8_t setting)
{
    return has_setting(d, setting, false) ? *rlx_setting_at(d, setting) : 0;
}

const char *rlx_setting_text(const struct rlx_device *d, uint8_t setting, uint8_t *count)
{
    *count = 0;
    if (!has_setting(d, setting, true)) return "";
    const uint8_t *text = text_of(d, setting);
    *count = *text;
    return (const char *)text + 1;
}

#if RLX_HAS_SEAL
int rlx_key_store(struct rlx_device *d, uint8_t setting, const char *key, uint8_t count)
{
    const uint8_t *text = (const uint8_t *)key;
    if (!has_setting(d, setting, true) || !text_fits(d, setting, text, count))
        return -RLX_ERR_RANGE;
    if (same_text(d, setting, text, count)) return RLX_ALREADY;
    set_text(d, setting, text, count);
    d->keep.unsaved |= UINT32_C(1) << setting;
    return 0;
}
#endif

bool rlx_setting_unsaved(const struct rlx_device *d, uint8_t setting)
{
    if (!rlx_started(d) || setting >= n_settings(d)) return false;
    const struct rlx_keep *k = &d->keep;
    return k->step > KEEP_LOAD || ((k->unsaved | k->moving) >> setting & 1);
}

#if RLX_HIDES_SETTINGS
RLX_INTERNAL bool rlx_setting_is_code(const struct rlx_device *d, uint8_t setting)
{
    return is_text_setting(d, setting) &&
           RLX_ROM16(setting_row(d, setting) + RLX_SET_AT) & RLX_SET_HIDDEN;
}
#endif

#if RLX_KEEPS_RECORDS
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
        uint32_t value = (uint32_t)(int32_t)*rlx_setting_at(d, setting);
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
    if (setting >= n_settings(d) || d->keep.unsaved >> setting & 1) return;
    if (is_text_setting(d, setting)) {
        if (text_fits(d, setting, record + 2, count)) set_text(d, setting, record + 2, count);
        return;
    }
    uint32_t value = record[2] | (uint32_t)record[3] << 8 | (uint32_t)record[4] << 16 |
                     (uint32_t)record[5] << 24;
    if (count == 4 && value_fits(d, setting, (rlx_value)value))
        *rlx_setting_at(d, setting) = (rlx_value)value;
}

/* ---- the memory ---- */

static uint16_t area_at(const struct rlx_device *d, uint8_t area)
{
    (void)d;
    return (uint16_t)(area * AREA(d));
}

/* False: the memory refuses for now. */
static bool read_nv(struct rlx_device *d, uint16_t at, uint8_t *bytes, uint8_t count)
{
    if (rlx_port_nv_read(d->port, at, bytes, count)) return true;
    d->keep.refused = true;
    return false;
}

/* The first unit from `at` on that is not erased, or cannot be read; `end`: all are. */
static uint16_t first_used(struct rlx_device *d, uint16_t at, uint16_t end)
{
    uint8_t unit[UNIT];
    for (; at < end; at = (uint16_t)(at + UNIT)) {
        if (!read_nv(d, at, unit, UNIT)) return at;
        for (uint8_t i = 0; i < UNIT; i++)
            if (unit[i] != FREE) return at;
    }
    return end;
}

/* Whether the area is whole and holds settings of this lexicon. */
static bool read_age(struct rlx_device *d, uint8_t area, uint8_t *age)
{
    uint8_t unit[HEADER];
    if (!read_nv(d, area_at(d, area), unit, HEADER)) return false;
    rlx_rom layout = rlx_part(d, RLX_IMG_SETTINGS) + 1;
    *age = unit[UNIT];
    if ((unit[UNIT + 1] ^ unit[UNIT]) != 0xFF) return false;
    rlx_wear_load(d, unit + 4); /* of another lexicon, too */
    for (uint8_t i = 0; i < 4; i++)
        if (unit[i] != RLX_ROM8(layout + i)) return false;
    return true;
}

/* Takes what it holds; where the next record goes, or the area's end where a torn one stands. */
static uint16_t read_records(struct rlx_device *d, uint8_t area)
{
    uint8_t record[RECORD_MAX];
    uint16_t at = HEADER, base = area_at(d, area);
    while (at + UNIT <= AREA(d)) {
        if (!read_nv(d, (uint16_t)(base + at), record, UNIT)) break;
        uint8_t count = record[1], size = record_size(count);
        if (record[0] == FREE) {
            uint16_t end = (uint16_t)(base + AREA(d));
            return first_used(d, (uint16_t)(base + at), end) == end ? at : AREA(d);
        }
        if (count > RECORD_MAX - 4 || at + size > AREA(d) ||
            !read_nv(d, (uint16_t)(base + at), record, size))
            break;
        uint16_t crc = crc_of(record, (uint8_t)(count + 2));
        if (record[count + 2] != (uint8_t)crc || record[count + 3] != crc >> 8) break;
        take_record(d, record);
        at = (uint16_t)(at + size);
    }
    return AREA(d);
}

/* Takes what is kept; false: the memory refuses to be read for now. */
static bool load(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint8_t ages[2] = {0, 0};
    k->refused = false;
    bool first = read_age(d, 0, &ages[0]), second = read_age(d, 1, &ages[1]);
    k->area = second && (!first || (int8_t)(uint8_t)(ages[1] - ages[0]) > 0);
    k->age = ages[k->area];
    k->used = first || second ? read_records(d, k->area) : AREA(d);
    k->step = k->refused ? KEEP_LOAD : KEEP_IDLE;
    return !k->refused;
}

#if RLX_KEEPS_EVENTS
RLX_INTERNAL rlx_rom rlx_setting_name(const struct rlx_device *d, uint8_t setting)
{
    return setting_slot(d, setting) + 3;
}
#endif

RLX_INTERNAL void rlx_settings_init(struct rlx_device *d)
{
    for (uint8_t i = 0; i < n_settings(d); i++) set_standard(d, i);
    if (n_settings(d) && !load(d)) d->keep.none = rlx_port_nv_state(d->port) == RLX_NV_FAILED;
}

#if RLX_KEEPS_RECORDS
RLX_INTERNAL bool rlx_settings_read(const struct rlx_device *d)
{
    return d->keep.step != KEEP_LOAD;
}

RLX_INTERNAL bool rlx_settings_loaded(const struct rlx_device *d)
{
    return rlx_settings_read(d) || d->keep.none;
}
#endif

/* ---- writing, a step a poll ---- */

/* What came of a step: the memory refuses for now, has begun it, or keeps what it has. */
enum came { REFUSED, BEGUN, WORN };

static enum came put_record(struct rlx_device *d, uint8_t area, uint8_t setting)
{
    uint8_t record[RECORD_MAX], size = write_record(d, setting, record);
    uint16_t at = d->keep.used;
    if (at + size > AREA(d)) return WORN; /* never: the area holds all of them */
    if (!rlx_port_nv_write(d->port, (uint16_t)(area_at(d, area) + at), record, size))
        return REFUSED;
    d->keep.used = (uint16_t)(at + size);
    return BEGUN;
}

static uint8_t lowest(uint32_t bits)
{
    uint8_t n = 0;
    while (!(bits >> n & 1)) n++;
    return n;
}

/* A unit with these bytes. */
static enum came put_unit(struct rlx_device *d, uint16_t at, const uint8_t *bytes, uint8_t count)
{
    uint8_t unit[UNIT];
    for (uint8_t i = 0; i < UNIT; i++) unit[i] = i < count ? bytes[i] : FREE;
    return rlx_port_nv_write(d->port, at, unit, UNIT) ? BEGUN : REFUSED;
}

static enum came put_layout(struct rlx_device *d, uint8_t area)
{
    rlx_rom layout = rlx_part(d, RLX_IMG_SETTINGS) + 1;
    uint8_t bytes[UNIT];
    for (uint8_t i = 0; i < 4; i++) bytes[i] = RLX_ROM8(layout + i);
    rlx_wear_put(d, bytes + 4);
    return put_unit(d, area_at(d, area), bytes, RLX_HAS_WEAR ? UNIT : 4);
}

static enum came put_age(struct rlx_device *d, uint8_t area)
{
    uint8_t age = (uint8_t)(d->keep.age + 1), bytes[2] = {age, (uint8_t)~age};
    return put_unit(d, (uint16_t)(area_at(d, area) + UNIT), bytes, sizeof bytes);
}

/* Erases the next page of the area that is not yet; its first unit goes first, so that what is half
 * erased is nobody's. */
static enum came erase_next(struct rlx_device *d, uint8_t area)
{
    struct rlx_keep *k = &d->keep;
    uint16_t base = area_at(d, area), end = (uint16_t)(base + AREA(d));
    k->refused = false;
    uint16_t at = first_used(d, base, end);
    if (k->refused) return REFUSED;
    if (at == end) {
        k->step++;
        return BEGUN;
    }
    if (at - base < k->used) return WORN;
    if (!rlx_port_nv_erase(d->port, at)) return REFUSED;
    if (!k->used) rlx_wear_erased(d);
    k->used = (uint16_t)(at - base + UNIT);
    return BEGUN;
}

/* The next step towards the other area. */
static enum came go_on_moving(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint8_t other = !k->area;
    enum came came = BEGUN;
    switch (k->step) {
    case KEEP_LOAD:
        if (!load(d)) return REFUSED;
#if RLX_KEEPS_EVENTS
        rlx_events_restore(d);
#endif
#if RLX_HAS_CURVE
        for (uint8_t i = 0; i < n_settings(d); i++) rlx_outputs_curved(d, i);
#endif
        return BEGUN;
    case KEEP_ERASE: return erase_next(d, other);
    case KEEP_LAYOUT:
        if ((came = put_layout(d, other)) != BEGUN) return came;
        k->used = HEADER;
        rlx_wear_saved(d, k->unsaved);
        k->unsaved = 0;
        k->moving = UINT32_MAX >> (32 - n_settings(d));
        break;
    case KEEP_MOVE:
        if ((came = put_record(d, other, lowest(k->moving))) != BEGUN) return came;
        k->moving &= k->moving - 1;
        if (k->moving) return BEGUN;
        break;
    case KEEP_AGE:
        if ((came = put_age(d, other)) != BEGUN) return came;
        break;
    default: /* KEEP_TURN: its age stands */
        k->area = other;
        k->age++;
        k->step = KEEP_IDLE;
        return BEGUN;
    }
    k->step++;
    return BEGUN;
}

/* All goes to the other area, from its first page on. */
static void begin_moving(struct rlx_keep *k)
{
    k->unsaved |= k->moving;
    k->moving = 0;
    k->step = KEEP_ERASE;
    k->used = 0; /* so much of the other one is erased */
}

/* Those that have changed, and can be written now. */
static uint32_t ready(const struct rlx_device *d)
{
    return d->keep.unsaved & ~rlx_wear_rests(d);
}

static bool area_has(const struct rlx_device *d, uint8_t setting)
{
    uint8_t count = is_text_setting(d, setting) ? *text_of(d, setting) : 4;
    return d->keep.used + record_size(count) <= AREA(d);
}

#if RLX_KEEPS_TAGS
RLX_INTERNAL bool rlx_setting_held(struct rlx_device *d, uint8_t setting)
{
    rlx_wear_run(d); /* what is due by now is paid */
    return RLX_HAS_WEAR && d->keep.step == KEEP_IDLE && !area_has(d, setting) && rlx_wear_holds(d);
}
#endif

/* Writes one that has changed behind the others, or begins to move them all. */
static enum came save_one(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint8_t setting = lowest(ready(d));
    if (!area_has(d, setting)) {
        begin_moving(k);
        return BEGUN;
    }
    if (put_record(d, k->area, setting) != BEGUN) return REFUSED;
    k->moving = UINT32_C(1) << setting;
    k->unsaved &= ~k->moving;
    rlx_wear_saved(d, k->moving);
    return BEGUN;
}

/* Milliseconds until the next step may be made; `rest`: until one more setting is ready. */
static uint32_t held(const struct rlx_device *d, uint32_t rest)
{
    const struct rlx_keep *k = &d->keep;
    if (k->step == KEEP_IDLE) {
        if (k->moving) return 0;
        if (!ready(d)) return rest;
        if (area_has(d, lowest(ready(d)))) return 0;
    } else if (k->step != KEEP_ERASE || k->used) {
        return 0;
    }
    return rlx_wear_holds(d);
}

/* The memory is ready. */
static enum came go_on_keeping(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    if (k->step != KEEP_IDLE) return go_on_moving(d);
    bool was = k->moving;
    k->moving = 0; /* it is written */
    if (rlx_needs(d, RLX_BIT_WEAR) && was)
        return BEGUN; /* whether the next one may be is another question */
    return k->unsaved ? save_one(d) : BEGUN;
}

#define REFUSED_MS 1024u  /* longest pause where it is refused; nothing can be kept then... */
#define FAILED_MS  65535u /* ...and where it fails: a page wears out */

/* Once more after a pause, each time twice as long. */
static uint32_t pause_keeping(struct rlx_device *d, bool failed)
{
    struct rlx_keep *k = &d->keep;
    uint32_t pause = k->pause ? 2u * k->pause : 1u, most = failed ? FAILED_MS : REFUSED_MS;
    if (failed && k->step != KEEP_LOAD) begin_moving(k);
    if (pause > most) pause = most;
    if (failed || pause == most) k->none = true;
    k->pause = (uint16_t)pause;
    k->due = d->now + pause;
    return pause;
}

RLX_INTERNAL uint32_t rlx_settings_run(struct rlx_device *d)
{
    struct rlx_keep *k = &d->keep;
    uint32_t idle = rlx_wear_run(d);
    if (!k->unsaved && !k->moving && k->step == KEEP_IDLE) return idle;
    if (k->pause && (int32_t)(d->now - k->due) < 0) return k->due - d->now;
    uint32_t wait = RLX_HAS_WEAR ? held(d, idle) : 0;
    if (wait) return wait;
    enum rlx_nv state = rlx_port_nv_state(d->port);
    if (state == RLX_NV_BUSY) return 1;
    enum came came = state == RLX_NV_READY ? go_on_keeping(d) : WORN;
    if (came != BEGUN) return pause_keeping(d, came == WORN);
    if (k->step != KEEP_ERASE) { /* that an erase was begun proves nothing */
        k->pause = 0;
        k->none = false;
    }
    return k->unsaved || k->moving || k->step != KEEP_IDLE ? 1 : idle;
}

#if RLX_HAS_STATE
RLX_INTERNAL void rlx_write_setting(struct rlx_device *d, uint8_t setting)
{
    rlx_rom op = setting_slot(d, setting);
#if RLX_HIDES_SETTINGS
    if (rlx_setting_is_code(d, setting)) {
        rlx_reply_words(d, RLX_TXT_HIDDEN);
    } else
#endif
        if (is_text_setting(d, setting)) {
        uint8_t count;
        const char *text = rlx_setting_text(d, setting, &count);
        rlx_reply_words(d, " \"");
        while (count--) rlx_reply_put(d, (uint8_t)*text++);
        rlx_reply_put(d, '"');
    } else {
        rlx_write_value(d, &op, *rlx_setting_at(d, setting));
    }
    if (rlx_setting_unsaved(d, setting)) rlx_reply_words(d, RLX_TXT_UNSAVED);
}
#endif
#endif
