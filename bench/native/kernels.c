/*
 * What a C compiler makes of the hottest kernels, as a yardstick for core/kernels/assembly: same work, plain loops.
 * Reads the name of a kernel from each line of standard input, runs it once over SIZE x SIZE texels, and prints the nanoseconds
 * of processor time that a texel took.
 */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#define TAPS 24
#define LOOKS 16
#define DIRECTIONS 16

static int size;
static float *a, *b, *mask, *out, *line;
static float weights[TAPS + 1];

static inline float unit(float v) { return v < 0 ? 0 : v > 1 ? 1 : v; }

static inline float soft(float base, float source) {
  float twice = 2 * source;
  float d = base <= 0.25f ? ((16 * base - 12) * base + 4) * base : sqrtf(base);
  return source <= 0.5f ? base - (1 - twice) * base * (1 - base) : base + (twice - 1) * (d - base);
}

static void soft_light(void) {
  for (int i = 0; i < size * size; i++) {
    float w = unit(mask[i]);
    float m = soft(unit(a[i]), unit(b[i]));
    out[i] = a[i] + (m - a[i]) * w;
  }
}

static void gaussian(void) {
  for (int y = 0; y < size; y++) {
    float *to = line + TAPS;
    const float *here = a + (size_t)y * size;
    for (int x = 0; x < size; x++) to[x] = weights[0] * here[x];
    for (int k = 1; k <= TAPS; k++) {
      const float *up = a + (size_t)((y - k + size) % size) * size, *down = a + (size_t)((y + k) % size) * size;
      for (int x = 0; x < size; x++) to[x] += weights[k] * (up[x] + down[x]);
    }
    memcpy(line, to + size - TAPS, TAPS * sizeof(float));
    memcpy(to + size, to, TAPS * sizeof(float));
    float *row = out + (size_t)y * size;
    for (int x = 0; x < size; x++) row[x] = weights[0] * to[x];
    for (int k = 1; k <= TAPS; k++)
      for (int x = 0; x < size; x++) row[x] += weights[k] * (to[x - k] + to[x + k]);
  }
}

static void warp(void) {
  for (int y = 0; y < size; y++)
    for (int x = 0; x < size; x++) {
      size_t i = (size_t)y * size + x;
      double px = x - b[i] * 20.0, py = y - mask[i] * 20.0;
      double fx = floor(px), fy = floor(py);
      float tx = (float)(px - fx), ty = (float)(py - fy);
      int x0 = ((int)fx % size + size) % size, y0 = ((int)fy % size + size) % size;
      int x1 = x0 + 1 == size ? 0 : x0 + 1, y1 = y0 + 1 == size ? 0 : y0 + 1;
      float p = a[(size_t)y0 * size + x0], q = a[(size_t)y1 * size + x0];
      float top = p + tx * (a[(size_t)y0 * size + x1] - p), low = q + tx * (a[(size_t)y1 * size + x1] - q);
      out[i] = top + ty * (low - top);
    }
}

static void occlusion(void) {
  static int dx[DIRECTIONS][LOOKS], dy[DIRECTIONS][LOOKS];
  static float slope[DIRECTIONS][LOOKS];
  for (int d = 0; d < DIRECTIONS; d++)
    for (int k = 0; k < LOOKS; k++) {
      double angle = d * 6.283185307179586 / DIRECTIONS;
      dx[d][k] = (int)lround(cos(angle) * (k + 1));
      dy[d][k] = (int)lround(sin(angle) * (k + 1));
      slope[d][k] = 20.0f / (k + 1);
    }
  float *hidden = line, *steepest = line + size;
  for (int y = 0; y < size; y++) {
    const float *here = a + (size_t)y * size;
    memset(hidden, 0, size * sizeof(float));
    for (int d = 0; d < DIRECTIONS; d++) {
      memset(steepest, 0, size * sizeof(float));
      for (int k = 0; k < LOOKS; k++) {
        const float *there = a + (size_t)((y + dy[d][k] + size) % size) * size;
        int shift = (dx[d][k] + size) % size;
        for (int part = 0; part < 2; part++) {
          int from = part ? size - shift : 0, to = part ? size : size - shift;
          const float *look = there + (part ? shift - size : shift);
          for (int x = from; x < to; x++) {
            float tangent = (look[x] - here[x]) * slope[d][k];
            steepest[x] = tangent > steepest[x] ? tangent : steepest[x];
          }
        }
      }
      for (int x = 0; x < size; x++) {
        float square = steepest[x] * steepest[x];
        hidden[x] += square / (1 + square);
      }
    }
    for (int x = 0; x < size; x++) out[(size_t)y * size + x] = 1 - hidden[x] / DIRECTIONS;
  }
}

static void srgb(void) {
  for (int i = 0; i < size * size; i++) {
    float v = a[i] < 0 ? 0 : a[i];
    float r = sqrtf(sqrtf(sqrtf(v))), u = r - 1;
    float q = 0.1715f;
    q = u * q + 0.1585f; q = u * q + 0.1251f; q = u * q - 0.0156f; q = u * q + 0.0653f;
    q = u * q - 0.1109f; q = u * q + 0.3333f; q = u * q + 1;
    float curve = 1.055f * (r * r * r * q) - 0.055f;
    out[i] = v <= 0.0031308f ? v * 12.92f : curve;
  }
}

static const struct { const char *name; void (*run)(void); } KERNELS[] = {
  {"soft-light", soft_light}, {"gaussian", gaussian}, {"warp", warp}, {"occlusion", occlusion}, {"srgb", srgb},
};

int main(int count, char **words) {
  size = count > 1 ? atoi(words[1]) : 1024;
  size_t bytes = (size_t)size * size * sizeof(float);
  a = malloc(bytes); b = malloc(bytes); mask = malloc(bytes); out = malloc(bytes);
  line = malloc((size_t)(2 * size + 4 * TAPS) * sizeof(float));
  uint32_t state = 7;
  for (int i = 0; i < size * size; i++) {
    state = state * 747796405u + 2891336453u;
    a[i] = (state >> 8) / 16777216.0f;
    b[i] = (state * 277803737u >> 8) / 16777216.0f;
    mask[i] = (state * 2654435761u >> 8) / 16777216.0f;
  }
  for (int k = 0; k <= TAPS; k++) weights[k] = expf(-0.5f * k * k / 36) / 15;
  char word[64];
  while (scanf("%63s", word) == 1)
    for (size_t k = 0; k < sizeof KERNELS / sizeof *KERNELS; k++)
      if (!strcmp(word, KERNELS[k].name)) {
        struct timespec from, to;
        clock_gettime(CLOCK_THREAD_CPUTIME_ID, &from);
        KERNELS[k].run();
        clock_gettime(CLOCK_THREAD_CPUTIME_ID, &to);
        double ns = (to.tv_sec - from.tv_sec) * 1e9 + (to.tv_nsec - from.tv_nsec);
        printf("%.3f\n", ns / ((double)size * size) + 0 * out[size]);
        fflush(stdout);
      }
  return 0;
}
