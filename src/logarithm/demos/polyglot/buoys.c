/* The closest two buoys in C, by every pair: as a command (buoys FILE) and as a worker (buoys). */
#define _POSIX_C_SOURCE 200809L
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

/* `values` holds x and y of each buoy in turn, `count` how many numbers there are. */
__attribute__((noinline)) static double job(const double *values, size_t count) {
    double best = INFINITY;
    for (size_t i = 0; i + 1 < count; i += 2)
        for (size_t j = 0; j < i; j += 2) {
            double x = values[i] - values[j], y = values[i + 1] - values[j + 1];
            double apart = x * x + y * y;
            if (apart < best) best = apart;
        }
    return sqrt(best);
}

/* The instances that are loaded, and the one that comes next. */
static struct instance { double *values; size_t count; } *loaded;
static size_t many_loaded, next_one;

static void clear(void) {
    while (many_loaded) free(loaded[--many_loaded].values);
    next_one = 0;
}

static int load_one(FILE *file) {
    size_t room = 64, count = 0;
    double value, *values = malloc(room * sizeof *values);
    while (values && fscanf(file, "%lf%*[, \t\r\n]", &value) == 1) {
        if (count == room) values = realloc(values, (room *= 2) * sizeof *values);
        if (values) values[count++] = value;
    }
    loaded = realloc(loaded, (many_loaded + 1) * sizeof *loaded);
    if (!values || !loaded) return 0;
    loaded[many_loaded].values = values;
    loaded[many_loaded++].count = count;
    return 1;
}

/* A file holds many instances; the sign 0x1E stands before each. */
static int load(const char *path) {
    FILE *file = fopen(path, "r");
    int fine = file != NULL;
    while (fine && getc(file) == 0x1E) fine = load_one(file);
    if (file) fclose(file);
    return fine;
}

static int64_t now(void) {
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (int64_t)at.tv_sec * 1000000000 + at.tv_nsec;
}

int main(int many, char **arguments) {
    static char line[1 << 16];
    if (many > 1) {
        FILE *file = fopen(arguments[1], "r");
        if (!file || !load_one(file)) return 1;
        printf("%.17g\n", job(loaded[0].values, loaded[0].count));
        return 0;
    }
    puts("logarithm-worker 3 C");
    fflush(stdout);
    while (fgets(line, sizeof line, stdin)) {
        line[strcspn(line, "\r\n")] = 0;
        if (!strcmp(line, "clear")) {
            clear();
            puts("ok");
        } else if (!strncmp(line, "load ", 5)) {
            puts(load(line + 5) ? "ok" : "error cannot read the instance");
        } else if (!strncmp(line, "run ", 4) && many_loaded) {
            char *rest;
            long long calls = strtoll(line + 4, &rest, 10);
            size_t among = strtoull(rest, NULL, 10);
            double answer = 0;
            if (next_one >= among) next_one = 0;
            int64_t start = now();
            for (long long i = 0; i < calls; i++) {
                const struct instance *now_comes = &loaded[next_one];
                answer = job(now_comes->values, now_comes->count);
                if (++next_one == among) next_one = 0;
                /* Without this the compiler might call the job once for all. */
                __asm__ volatile("" : "+m"(answer) : : "memory");
            }
            int64_t took = now() - start;
            printf("done %lld %.17g\n", (long long)took, answer);
        } else if (!strcmp(line, "end")) {
            break;
        } else {
            printf("error unknown request: %.60s\n", line);
        }
        fflush(stdout);
    }
    return 0;
}
