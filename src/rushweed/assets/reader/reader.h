/* Reads what Rushweed shipped for a game: frames, animations, levels. C99 or C++, nothing but the standard library.
 *
 *   #define RUSHWEED_READER_IMPLEMENTATION      // in one source file
 *   #include "reader.h"
 *
 *   rw_shipment *s = rw_open("shipped", decode, NULL);        // decode reads a page: any PNG decoder will do
 *   rw_picture screen = rw_new_picture(320, 180);
 *   rw_draw_frame(s, &screen, rw_frame(s, "lamp_lit"), 100, 90, 0, 1.0);
 *   rw_draw_animation(s, &screen, "walk", 250, 160, 90, 0);   // as it looks 250 ms after its start
 *   rw_draw_level(s, &screen, "pier", 0, 0, 0);
 *   rw_close(s);
 *
 * Coordinates are px, x right and y down. The rules of drawing are those of docs/formats.md of Rushweed. This file is
 * in the public domain (CC0-1.0): change it as you like.
 */
#ifndef RUSHWEED_READER_H
#define RUSHWEED_READER_H

#ifdef __cplusplus
extern "C" {
#endif

/* Px in rows from the top, four bytes each: red, green, blue, alpha (straight). `px` is from malloc. */
typedef struct { int width, height; unsigned char *px; } rw_picture;

/* Reads the picture in a file; on failure px is NULL. */
typedef rw_picture (*rw_decoder)(const char *path, void *user);

/* A JSON value: `kind` is n(ull), b(ool), d (number), s (text), a (list) or o (object). */
typedef struct rw_json { char kind; double number; char *text; int count; struct rw_json *items; char **keys; } rw_json;

typedef struct rw_shipment rw_shipment;

rw_shipment *rw_open(const char *folder, rw_decoder decode, void *user); /* NULL if it cannot be read */
void rw_close(rw_shipment *s);
const rw_json *rw_manifest(const rw_shipment *s);
const rw_json *rw_level(rw_shipment *s, const char *name);               /* by name or id */
const rw_json *rw_get(const rw_json *object, const char *key);           /* NULL if it is not there */
int rw_frame(const rw_shipment *s, const char *name);                    /* by id or name; -1 if there is none */
int rw_frame_at(const rw_shipment *s, const char *animation, double ms); /* what an animation shows */
rw_picture rw_new_picture(int width, int height);
void rw_put(rw_picture *target, const rw_picture *over, int x, int y, double opacity);
void rw_draw_frame(rw_shipment *s, rw_picture *target, int frame, double x, double y, int mirrored, double opacity);
int rw_draw_animation(rw_shipment *s, rw_picture *target, const char *name, double ms, double x, double y, int mirrored);
int rw_draw_level(rw_shipment *s, rw_picture *target, const char *name, int left, int top, double ms);

#ifdef __cplusplus
}
#endif
#endif /* RUSHWEED_READER_H */

#ifdef RUSHWEED_READER_IMPLEMENTATION
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

struct rw_shipment {
    char *folder;
    rw_decoder decode;
    void *user;
    rw_json manifest;
    const rw_json *frames, *animations;
    const char *over; /* the trait of tiles that stand by their foot */
    rw_json *levels;
    char *has_level;
    int pictures;
    char **files;
    rw_picture *held;
};

/* -- JSON --------------------------------------------------------------------------------------------------- */

static void rw__free(rw_json *j) {
    int n;
    for (n = 0; n < j->count; n++) {
        rw__free(&j->items[n]);
        if (j->keys) free(j->keys[n]);
    }
    free(j->items); free(j->keys); free(j->text);
    memset(j, 0, sizeof *j);
}

static const char *rw__blank(const char *p) { while (*p == ' ' || *p == '\n' || *p == '\t' || *p == '\r') p++; return p; }

static const char *rw__string(const char *p, char **out) {
    char *made = (char *)malloc(strlen(p) + 1), *to = made;
    for (p++; *p && *p != '"'; p++) {
        unsigned code = 0;
        if (*p != '\\') { *to++ = *p; continue; }
        p++;
        switch (*p) {
        case 'n': *to++ = '\n'; break;
        case 't': *to++ = '\t'; break;
        case 'r': *to++ = '\r'; break;
        case 'b': *to++ = '\b'; break;
        case 'f': *to++ = '\f'; break;
        case 'u':
            if (sscanf(p + 1, "%4x", &code) == 1) {
                p += 4;
                if (code < 0x80) *to++ = (char)code;
                else if (code < 0x800) { *to++ = (char)(0xc0 | code >> 6); *to++ = (char)(0x80 | (code & 63)); }
                else { *to++ = (char)(0xe0 | code >> 12); *to++ = (char)(0x80 | (code >> 6 & 63)); *to++ = (char)(0x80 | (code & 63)); }
            }
            break;
        case 0: p--; break;
        default: *to++ = *p;
        }
    }
    *to = 0;
    *out = made;
    return *p ? p + 1 : p;
}

static const char *rw__parse(const char *p, rw_json *out) {
    int room = 0;
    char close, *end;
    memset(out, 0, sizeof *out);
    p = rw__blank(p);
    if (*p == '{' || *p == '[') {
        out->kind = *p == '{' ? 'o' : 'a';
        close = *p == '{' ? '}' : ']';
        for (p = rw__blank(p + 1); *p && *p != close; p = rw__blank(p)) {
            if (*p == ',') { p++; continue; }
            if (out->count == room) {
                room = room ? room * 2 : 4;
                out->items = (rw_json *)realloc(out->items, (size_t)room * sizeof *out->items);
                if (out->kind == 'o') out->keys = (char **)realloc(out->keys, (size_t)room * sizeof *out->keys);
            }
            if (out->kind == 'o') {
                if (*p != '"') break;
                p = rw__blank(rw__string(p, &out->keys[out->count]));
                if (*p == ':') p++;
            }
            p = rw__parse(p, &out->items[out->count++]);
            if (!p) return NULL;
        }
        return *p == close ? p + 1 : NULL;
    }
    if (*p == '"') { out->kind = 's'; return rw__string(p, &out->text); }
    if (!strncmp(p, "true", 4)) { out->kind = 'b'; out->number = 1; return p + 4; }
    if (!strncmp(p, "false", 5)) { out->kind = 'b'; return p + 5; }
    if (!strncmp(p, "null", 4)) { out->kind = 'n'; return p + 4; }
    out->kind = 'd';
    out->number = strtod(p, &end);
    return end == p ? NULL : end;
}

static int rw__read(const char *folder, const char *file, rw_json *out) {
    char *path = (char *)malloc(strlen(folder) + strlen(file) + 2), *text = NULL;
    FILE *in;
    long size;
    int good = 0;
    sprintf(path, "%s/%s", folder, file);
    in = fopen(path, "rb");
    free(path);
    if (!in) return 0;
    if (!fseek(in, 0, SEEK_END) && (size = ftell(in)) >= 0 && !fseek(in, 0, SEEK_SET) && (text = (char *)malloc((size_t)size + 1))) {
        size = (long)fread(text, 1, (size_t)size, in);
        text[size] = 0;
        good = rw__parse(text, out) != NULL;
    }
    free(text);
    fclose(in);
    return good;
}

const rw_json *rw_get(const rw_json *object, const char *key) {
    int n;
    for (n = 0; object && object->kind == 'o' && n < object->count; n++)
        if (!strcmp(object->keys[n], key)) return &object->items[n];
    return NULL;
}

static double rw__number(const rw_json *object, const char *key, double usual) {
    const rw_json *found = rw_get(object, key);
    return found && (found->kind == 'd' || found->kind == 'b') ? found->number : usual;
}

static double rw__of(const rw_json *object, const char *key, int n, double usual) { /* number n of a list */
    const rw_json *found = rw_get(object, key);
    return found && found->kind == 'a' && n < found->count ? found->items[n].number : usual;
}

static const char *rw__text(const rw_json *object, const char *key, const char *usual) {
    const rw_json *found = rw_get(object, key);
    return found && found->kind == 's' ? found->text : usual;
}

static int rw__count(const rw_json *list) { return list && list->kind == 'a' ? list->count : 0; }

/* -- pictures ----------------------------------------------------------------------------------------------- */

static int rw__nearest(double v) { return (int)floor(v + 0.5); } /* of two px the one further right or down */

rw_picture rw_new_picture(int width, int height) {
    rw_picture p;
    p.width = width;
    p.height = height;
    p.px = (unsigned char *)calloc((size_t)(width > 0 ? width : 1) * (size_t)(height > 0 ? height : 1), 4);
    return p;
}

static rw_picture rw__part(const rw_picture *p, int x, int y, int w, int h) {
    rw_picture out = rw_new_picture(w, h);
    int row, column;
    for (row = 0; row < h; row++)
        for (column = 0; column < w; column++)
            if (x + column >= 0 && y + row >= 0 && x + column < p->width && y + row < p->height)
                memcpy(out.px + 4 * (row * w + column), p->px + 4 * ((y + row) * p->width + x + column), 4);
    return out;
}

static rw_picture rw__turned(const rw_picture *p, int turn) { /* mirrored from 4 on, then quarters clockwise */
    int w = p->width, h = p->height, wide = turn & 1 ? h : w, high = turn & 1 ? w : h, x, y;
    rw_picture out = rw_new_picture(wide, high);
    for (y = 0; y < high; y++)
        for (x = 0; x < wide; x++) {
            int u = x, v = y;
            if ((turn & 3) == 1) { u = y; v = h - 1 - x; }
            if ((turn & 3) == 2) { u = w - 1 - x; v = h - 1 - y; }
            if ((turn & 3) == 3) { u = w - 1 - y; v = x; }
            if (turn & 4) u = w - 1 - u;
            memcpy(out.px + 4 * (y * wide + x), p->px + 4 * (v * w + u), 4);
        }
    return out;
}

static void rw__tint(rw_picture *p, const rw_json *tint) {
    int n, c;
    if (rw__count(tint) < 3) return;
    for (n = 0; n < p->width * p->height; n++)
        for (c = 0; c < 3; c++) p->px[4 * n + c] = (unsigned char)((p->px[4 * n + c] * (int)tint->items[c].number + 127) / 255);
}

void rw_put(rw_picture *target, const rw_picture *over, int x, int y, double opacity) {
    int row, column, c;
    for (row = y < 0 ? 0 : y; row < y + over->height && row < target->height; row++)
        for (column = x < 0 ? 0 : x; column < x + over->width && column < target->width; column++) {
            const unsigned char *from = over->px + 4 * ((row - y) * over->width + column - x);
            unsigned char *to = target->px + 4 * (row * target->width + column);
            int alpha = opacity < 1 ? (int)rint(from[3] * opacity) : from[3];
            if (alpha == 255) memcpy(to, from, 4);
            else if (alpha) {
                int below = to[3] * (255 - alpha) / 255, total = alpha + below;
                for (c = 0; c < 3; c++) to[c] = (unsigned char)((from[c] * alpha + to[c] * below + total / 2) / total);
                to[3] = (unsigned char)total;
            }
        }
}

static const rw_picture *rw__file(rw_shipment *s, const char *file) {
    static const rw_picture none = {0, 0, NULL};
    char *path;
    int n;
    for (n = 0; n < s->pictures; n++)
        if (!strcmp(s->files[n], file)) return &s->held[n];
    path = (char *)malloc(strlen(s->folder) + strlen(file) + 2);
    sprintf(path, "%s/%s", s->folder, file);
    s->files = (char **)realloc(s->files, sizeof *s->files * (size_t)(n + 1));
    s->held = (rw_picture *)realloc(s->held, sizeof *s->held * (size_t)(n + 1));
    s->files[n] = (char *)malloc(strlen(file) + 1);
    strcpy(s->files[n], file);
    s->held[n] = s->decode(path, s->user);
    if (!s->held[n].px) s->held[n] = none;
    s->pictures = n + 1;
    free(path);
    return &s->held[n];
}

/* -- shipment ----------------------------------------------------------------------------------------------- */

rw_shipment *rw_open(const char *folder, rw_decoder decode, void *user) {
    rw_shipment *s = (rw_shipment *)calloc(1, sizeof *s);
    const rw_json *traits;
    int n;
    s->folder = (char *)malloc(strlen(folder) + 1);
    strcpy(s->folder, folder);
    s->decode = decode;
    s->user = user;
    if (!rw__read(folder, "manifest.json", &s->manifest)) { rw_close(s); return NULL; }
    s->frames = rw_get(&s->manifest, "frames");
    s->animations = rw_get(&s->manifest, "animations");
    traits = rw_get(&s->manifest, "traits");
    for (n = 0; n < rw__count(traits); n++)
        if (!strcmp(rw__text(&traits->items[n], "id", ""), "over")) s->over = rw__text(&traits->items[n], "name", "");
    n = rw__count(rw_get(&s->manifest, "levels"));
    s->levels = (rw_json *)calloc((size_t)n + 1, sizeof *s->levels);
    s->has_level = (char *)calloc((size_t)n + 1, 1);
    return s;
}

void rw_close(rw_shipment *s) {
    int n;
    for (n = 0; n < s->pictures; n++) { free(s->files[n]); free(s->held[n].px); }
    for (n = 0; s->levels && n < rw__count(rw_get(&s->manifest, "levels")); n++) rw__free(&s->levels[n]);
    rw__free(&s->manifest);
    free(s->files); free(s->held); free(s->levels); free(s->has_level); free(s->folder); free(s);
}

const rw_json *rw_manifest(const rw_shipment *s) { return &s->manifest; }

const rw_json *rw_level(rw_shipment *s, const char *name) {
    const rw_json *parts = rw_get(&s->manifest, "levels");
    int n;
    for (n = 0; n < rw__count(parts); n++) {
        const rw_json *part = &parts->items[n];
        if (strcmp(rw__text(part, "name", ""), name) && strcmp(rw__text(part, "id", ""), name)) continue;
        if (!s->has_level[n]) s->has_level[n] = rw__read(s->folder, rw__text(part, "file", ""), &s->levels[n]) ? 1 : 2;
        return s->has_level[n] == 1 ? &s->levels[n] : NULL;
    }
    return NULL;
}

int rw_frame(const rw_shipment *s, const char *name) {
    int n;
    for (n = 0; n < rw__count(s->frames); n++)
        if (!strcmp(rw__text(&s->frames->items[n], "id", ""), name)) return n;
    for (n = 0; n < rw__count(s->frames); n++)
        if (!strcmp(rw__text(&s->frames->items[n], "name", ""), name)) return n;
    return -1;
}

static const rw_json *rw__animation(const rw_shipment *s, const char *name) {
    int n;
    for (n = 0; n < rw__count(s->animations); n++)
        if (!strcmp(rw__text(&s->animations->items[n], "id", ""), name)) return &s->animations->items[n];
    for (n = 0; n < rw__count(s->animations); n++)
        if (!strcmp(rw__text(&s->animations->items[n], "name", ""), name)) return &s->animations->items[n];
    return NULL;
}

int rw_frame_at(const rw_shipment *s, const char *animation, double ms) {
    const rw_json *found = rw__animation(s, animation), *frames = rw_get(found, "frames");
    const char *play = rw__text(found, "play", "loop");
    int count = rw__count(frames), length, n, at;
    double whole = 0, left;
    if (!count) return -1;
    length = !strcmp(play, "there-and-back") && count > 2 ? 2 * count - 2 : count;
    for (n = 0; n < length; n++) whole += frames->items[n < count ? n : length - n].items[1].number;
    if (!strcmp(play, "once") && ms >= whole) return rw_frame(s, frames->items[count - 1].items[0].text);
    left = fmod(ms, whole);
    if (left < 0) left += whole;
    for (n = 0, at = 0; n < length; n++) {
        at = n < count ? n : length - n;
        left -= frames->items[at].items[1].number;
        if (left < 0) break;
    }
    return rw_frame(s, frames->items[at].items[0].text);
}

static rw_picture rw__art(rw_shipment *s, int place) { /* what stands on the page, turned as it is drawn */
    const rw_json *frame = &s->frames->items[place], *pages = rw_get(&s->manifest, "pages");
    const rw_picture *page = rw__file(s, rw__text(&pages->items[(int)rw__number(frame, "page", 0)], "file", ""));
    rw_picture part = rw__part(page, (int)rw__of(frame, "rect_px", 0, 0), (int)rw__of(frame, "rect_px", 1, 0),
                               (int)rw__of(frame, "rect_px", 2, 0), (int)rw__of(frame, "rect_px", 3, 0));
    rw_picture out = rw__turned(&part, (int)rw__number(frame, "orientation", 0));
    free(part.px);
    return out;
}

static rw_picture rw__cell(rw_shipment *s, int place) { /* the whole cell; what its offset carries out is not there */
    const rw_json *frame = &s->frames->items[place];
    rw_picture art = rw__art(s, place);
    rw_picture out = rw__part(&art, -(int)rw__of(frame, "offset_px", 0, 0), -(int)rw__of(frame, "offset_px", 1, 0),
                              (int)rw__of(frame, "size_px", 0, 0), (int)rw__of(frame, "size_px", 1, 0));
    free(art.px);
    return out;
}

static void rw__thing(rw_shipment *s, rw_picture *target, const rw_json *thing, int mirrored, int place, double x, double y,
                      int left, int top, const rw_json *tint, double opacity) {
    const rw_json *frame = &s->frames->items[place];
    double ox = rw__of(frame, "offset_px", 0, 0), oy = rw__of(frame, "offset_px", 1, 0);
    double px = rw__of(frame, "pivot_px", 0, 0) - ox, py = rw__of(frame, "pivot_px", 1, 0) - oy;
    double turn = rw__number(thing, "turn_degrees", 0), sx = rw__of(thing, "scale", 0, 1), sy = rw__of(thing, "scale", 1, 1);
    double angle = turn * 3.14159265358979323846 / 180, a, b, c, d, e, f, share, xs[4], ys[4], low, high;
    rw_picture art = rw__art(s, place), out;
    int x0, y0, wide, tall, row, column, n;
    rw__tint(&art, rw_get(thing, "tint"));
    rw__tint(&art, tint);
    if (fmod(turn, 360) == 0 && sx == 1 && sy == 1) {
        if (mirrored) {
            out = rw__turned(&art, 4);
            free(art.px);
            art = out;
        }
        rw_put(target, &art, rw__nearest(mirrored ? x + px - art.width : x - px) - left, rw__nearest(y - py) - top, opacity);
        free(art.px);
        return;
    }
    sx = mirrored ? -sx : sx;
    a = cos(angle) * sx; b = -sin(angle) * sy; c = sin(angle) * sx; d = cos(angle) * sy;
    e = x - a * px - b * py; f = y - c * px - d * py; share = a * d - b * c;
    xs[0] = e; xs[1] = a * art.width + e; xs[2] = xs[1] + b * art.height; xs[3] = b * art.height + e;
    ys[0] = f; ys[1] = c * art.width + f; ys[2] = ys[1] + d * art.height; ys[3] = d * art.height + f;
    for (low = high = xs[0], n = 1; n < 4; n++) { if (xs[n] < low) low = xs[n]; if (xs[n] > high) high = xs[n]; }
    x0 = (int)floor(low + 1e-9); wide = (int)ceil(high - 1e-9) - x0;
    for (low = high = ys[0], n = 1; n < 4; n++) { if (ys[n] < low) low = ys[n]; if (ys[n] > high) high = ys[n]; }
    y0 = (int)floor(low + 1e-9); tall = (int)ceil(high - 1e-9) - y0;
    out = rw_new_picture(wide > 1 ? wide : 1, tall > 1 ? tall : 1);
    for (row = 0; row < out.height; row++)
        for (column = 0; column < out.width; column++) {
            double across = column + 0.5 + x0 - e, down = row + 0.5 + y0 - f;
            int u = (int)floor((d * across - b * down) / share + 1e-9), v = (int)floor((a * down - c * across) / share + 1e-9);
            if (u >= 0 && v >= 0 && u < art.width && v < art.height)
                memcpy(out.px + 4 * (row * out.width + column), art.px + 4 * (v * art.width + u), 4);
        }
    rw_put(target, &out, x0 - left, y0 - top, opacity);
    free(out.px);
    free(art.px);
}

void rw_draw_frame(rw_shipment *s, rw_picture *target, int frame, double x, double y, int mirrored, double opacity) {
    if (frame >= 0 && frame < rw__count(s->frames)) rw__thing(s, target, NULL, mirrored, frame, x, y, 0, 0, NULL, opacity);
}

int rw_draw_animation(rw_shipment *s, rw_picture *target, const char *name, double ms, double x, double y, int mirrored) {
    int frame = rw_frame_at(s, name, ms);
    rw_draw_frame(s, target, frame, x, y, mirrored, 1.0);
    return frame >= 0;
}

/* -- levels ------------------------------------------------------------------------------------------------- */

static double rw__eased(const rw_json *path, double ms) { /* how far along its path something is, 0 to 1 */
    double share = (ms > 0 ? ms : 0) / rw__number(path, "ms", 1);
    const char *play = rw__text(path, "play", ""), *easing = rw__text(path, "easing", "");
    if (!strcmp(play, "once")) share = share < 1 ? share : 1;
    else if (!strcmp(play, "loop")) share = fmod(share, 1);
    else share = 1 - fabs(fmod(share, 2) - 1);
    if (!strcmp(easing, "in")) return share * share;
    if (!strcmp(easing, "out")) return 1 - (1 - share) * (1 - share);
    if (!strcmp(easing, "both")) return share < 0.5 ? 2 * share * share : 1 - 2 * (1 - share) * (1 - share);
    return share;
}

/* Something that stands by its foot: a thing, or a tile (thing is NULL). */
typedef struct { double foot, x, y, opacity; int number, order, place, turn, left, top; const rw_json *thing, *tint; } rw__stand;

static int rw__lower(const void *one, const void *other) {
    const rw__stand *a = (const rw__stand *)one, *b = (const rw__stand *)other;
    if (a->foot != b->foot) return a->foot < b->foot ? -1 : 1;
    return a->number != b->number ? a->number - b->number : a->order - b->order;
}

static void rw__tile(rw_shipment *s, rw_picture *target, const rw_json *level, int place, int turn, int x, int y,
                     const rw_json *tint, double opacity) {
    int cw = (int)rw__of(level, "cell_px", 0, 1), ch = (int)rw__of(level, "cell_px", 1, 1);
    rw_picture whole, turned, cut;
    if (x <= -cw || y <= -ch || x >= target->width || y >= target->height) return;
    whole = rw__cell(s, place);
    turned = rw__turned(&whole, turn);
    cut = rw__part(&turned, 0, 0, turned.width < cw ? turned.width : cw, turned.height < ch ? turned.height : ch);
    rw__tint(&cut, tint);
    rw_put(target, &cut, x, y, opacity);
    free(whole.px); free(turned.px); free(cut.px);
}

static void rw__stands(rw__stand **list, int *count, rw__stand one) {
    one.order = *count;
    if ((*count & (*count - 1)) == 0) *list = (rw__stand *)realloc(*list, sizeof one * (size_t)(*count ? *count * 2 : 1));
    (*list)[(*count)++] = one;
}

static void rw__backdrop(rw_shipment *s, rw_picture *target, const rw_json *layer, int x0, int y0, double opacity) {
    const char *file = rw__text(layer, "picture", NULL);
    int frame = (int)rw__number(layer, "frame", -1), across = rw__number(layer, "repeat", 0) != 0;
    int down = rw__number(layer, "repeat_y", 0) != 0, x, y;
    rw_picture art, out;
    if (!file && frame < 0) return;
    art = file ? rw__part(rw__file(s, file), 0, 0, rw__file(s, file)->width, rw__file(s, file)->height) : rw__cell(s, frame);
    if (rw__number(layer, "stretch", 0) != 0) {
        out = rw_new_picture(target->width, target->height);
        for (y = 0; y < out.height; y++)
            for (x = 0; x < out.width; x++)
                memcpy(out.px + 4 * (y * out.width + x), art.px + 4 * (y * art.height / out.height * art.width + x * art.width / out.width), 4);
        free(art.px);
        art = out;
    }
    rw__tint(&art, rw_get(layer, "tint"));
    if (art.width > 0 && art.height > 0) {
        if (across) { x0 %= art.width; if (x0 > 0) x0 -= art.width; }
        if (down) { y0 %= art.height; if (y0 > 0) y0 -= art.height; }
        for (y = y0; y < target->height; y += art.height) {
            for (x = x0; x < target->width; x += art.width) {
                rw_put(target, &art, x, y, opacity);
                if (!across) break;
            }
            if (!down) break;
        }
    }
    free(art.px);
}

int rw_draw_level(rw_shipment *s, rw_picture *target, const char *name, int left, int top, double ms) {
    const rw_json *level = rw_level(s, name), *layers = rw_get(level, "layers"), *things = rw_get(level, "things");
    int foot = !strcmp(rw__text(level, "order", "layer"), "foot"), pass, number, n, row, count = 0;
    int cw = (int)rw__of(level, "cell_px", 0, 1), ch = (int)rw__of(level, "cell_px", 1, 1);
    int first = (int)rw__of(level, "bounds_cells", 0, 0), above = (int)rw__of(level, "bounds_cells", 1, 0);
    rw__stand *list = NULL;
    if (!level) return 0;
    for (pass = 0; pass < 2; pass++) { /* first what is behind, then the layers in front */
        for (number = 0; number < rw__count(layers); number++) {
            const rw_json *layer = &layers->items[number], *tint = rw_get(layer, "tint"), *rows;
            const char *kind = rw__text(layer, "kind", "");
            double opacity = rw__number(layer, "opacity", 1), shift[2], middle[2];
            int x0, y0, cells, stands = foot && !pass;
            if ((rw__number(layer, "front", 0) != 0) != pass || rw__number(layer, "shown", 1) == 0 || opacity <= 0) continue;
            middle[0] = left + target->width / 2.0;
            middle[1] = top + target->height / 2.0;
            for (n = 0; n < 2; n++) {
                shift[n] = (middle[n] - rw__of(level, "start_px", n, 0)) * (1 - rw__of(layer, "parallax", n, 1)) + rw__of(layer, "offset_px", n, 0);
                if (!strcmp(kind, "backdrop")) shift[n] += rw__of(layer, "drift_px_per_s", n, 0) * ms / 1000 + (n ? rw__number(layer, "top_px", 0) : 0);
            }
            x0 = rw__nearest(shift[0]);
            y0 = rw__nearest(shift[1]);
            if (!strcmp(kind, "backdrop") || !strcmp(kind, "picture")) rw__backdrop(s, target, layer, x0 - left, y0 - top, opacity);
            rows = rw_get(layer, "rows");
            cells = !rows;
            if (cells) rows = rw_get(layer, "cells");
            for (row = 0; row < rw__count(rows); row++) {
                int column = first, run, k;
                for (run = 0; run < rows->items[row].count; run++) {
                    const rw_json *one = &rows->items[row].items[run];
                    int value = cells ? (int)one->number : 0, length = cells ? 1 : (int)one->items[0].number;
                    int place = cells ? (value < 0 ? -1 : value >> 3) : (int)one->items[1].number;
                    int turn = cells ? value & 7 : (int)one->items[2].number;
                    const rw_json *line = place >= 0 && s->over ? rw_get(rw_get(&s->frames->items[place], "traits"), s->over) : NULL;
                    for (k = 0; place >= 0 && k < length; k++) {
                        int x = (column + k) * cw, y = (above + row) * ch;
                        if (stands && line) {
                            rw__stand tile;
                            memset(&tile, 0, sizeof tile);
                            tile.foot = y + shift[1] + ch - line->number; tile.x = x + shift[0]; tile.y = y + shift[1];
                            tile.opacity = opacity; tile.number = number; tile.place = place; tile.turn = turn; tile.tint = tint;
                            rw__stands(&list, &count, tile);
                        } else rw__tile(s, target, level, place, turn, x + x0 - left, y + y0 - top, tint, opacity);
                    }
                    column += length;
                }
            }
            for (n = 0; n < rw__count(things); n++) {
                const rw_json *thing = &things->items[n], *path = rw_get(thing, "path");
                const char *shows = rw__text(thing, "shows", "");
                rw__stand it;
                int place;
                if ((int)rw__number(thing, "layer", -1) != number) continue;
                memset(&it, 0, sizeof it);
                if (rw__animation(s, shows)) {
                    place = rw_frame_at(s, shows, ms);
                    if (!path) path = rw_get(rw__animation(s, shows), "path");
                } else place = rw_frame(s, shows);
                if (place < 0) continue;
                it.x = rw__of(thing, "at_px", 0, 0); it.y = rw__of(thing, "at_px", 1, 0);
                if (path) {
                    double far = rw__eased(path, ms);
                    it.x += rw__of(path, "offset_px", 0, 0) * far;
                    it.y += rw__of(path, "offset_px", 1, 0) * far;
                }
                it.foot = it.y + shift[1]; it.opacity = opacity; it.number = number; it.place = place; it.thing = thing;
                it.tint = tint; it.left = left - x0; it.top = top - y0;
                if (stands) rw__stands(&list, &count, it);
                else rw__thing(s, target, thing, rw__number(thing, "mirrored", 0) != 0, place, it.x, it.y, it.left, it.top, tint, opacity);
            }
        }
        if (!pass && count) {
            qsort(list, (size_t)count, sizeof *list, rw__lower);
            for (n = 0; n < count; n++) {
                const rw__stand *one = &list[n];
                if (one->thing)
                    rw__thing(s, target, one->thing, rw__number(one->thing, "mirrored", 0) != 0, one->place, one->x, one->y, one->left, one->top, one->tint, one->opacity);
                else
                    rw__tile(s, target, level, one->place, one->turn, rw__nearest(one->x) - left, rw__nearest(one->y) - top, one->tint, one->opacity);
            }
        }
    }
    free(list);
    return 1;
}
#endif /* RUSHWEED_READER_IMPLEMENTATION */
