/* A stand-in for a loopback camera device: preloaded before a program, it answers for files named video* in the folder
 * STAND_IN_DEVICES as the kernel does for a device. A file beside it changes what it is: NAME.busy, NAME.gone, NAME.yuyv,
 * NAME.camera (takes no pictures). */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <stdarg.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#define QUERYCAP 0x80685600UL
#define SET_FORMAT 0xC0D05605UL

struct capability { char driver[16], card[32], bus[32]; uint32_t version, capabilities, device_caps, reserved[3]; };
struct format { uint32_t type, pad, width, height, pixels, field, line, size, colours; };

static int device(int fd, char *path) {
    char link[64];
    const char *folder = getenv("STAND_IN_DEVICES");
    snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
    ssize_t n = readlink(link, path, 511);
    if (n < 0 || !folder) return 0;
    path[n] = 0;
    return !strncmp(path, folder, strlen(folder)) && strstr(path, "/video");
}

static int is(const char *path, const char *what) {
    char beside[600];
    snprintf(beside, sizeof beside, "%s.%s", path, what);
    return !access(beside, F_OK);
}

static int fail(int code) { errno = code; return -1; }

int ioctl(int fd, unsigned long request, ...) {
    va_list more;
    va_start(more, request);
    void *argument = va_arg(more, void *);
    va_end(more);
    char path[512];
    request &= 0xFFFFFFFFUL;
    if ((request == QUERYCAP || request == SET_FORMAT) && device(fd, path)) {
        if (is(path, "gone")) return fail(ENODEV);
        if (request == QUERYCAP) {
            struct capability *found = argument;
            memset(found, 0, sizeof *found);
            strcpy(found->driver, "stand-in");
            strcpy(found->card, "Stand-in camera");
            found->capabilities = 0x85200003u;
            found->device_caps = is(path, "camera") ? 0x05200001u : 0x05200002u;
            return 0;
        }
        struct format *wanted = argument;
        if (is(path, "busy")) return fail(EBUSY);
        if (wanted->type != 2) return fail(EINVAL);
        if (is(path, "yuyv") && wanted->pixels != 0x56595559u) {
            wanted->pixels = 0x56595559u; /* as drivers do: what it would take instead */
            wanted->line = wanted->width * 2;
            wanted->size = wanted->width * wanted->height * 2;
        }
        return 0;
    }
    int (*real)(int, unsigned long, ...) = dlsym(RTLD_NEXT, "ioctl");
    return real(fd, request, argument);
}

ssize_t write(int fd, const void *bytes, size_t count) {
    ssize_t (*real)(int, const void *, size_t) = dlsym(RTLD_NEXT, "write");
    char path[512];
    if (count > 4096 && device(fd, path)) {
        if (is(path, "gone")) return fail(ENODEV);
        lseek(fd, 0, SEEK_SET); /* the newest picture is what a program sees */
    }
    return real(fd, bytes, count);
}
