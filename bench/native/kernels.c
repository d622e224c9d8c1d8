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
static float *a, *b, *mask, *out, *line, *smooth;
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

/* One round of PCG, as core/random.ts has it. */
static inline uint32_t hash32(uint32_t value) {
  uint32_t state = value * 747796405u + 2891336453u;
  uint32_t word = ((state >> ((state >> 28) + 4)) ^ state) * 277803737u;
  return (word >> 22) ^ word;
}
static inline uint32_t hash_into(uint32_t hash, uint32_t value) { return hash32(hash + value); }
static inline float fade(float t) { return t * t * t * (t * (t * 6 - 15) + 10); }

#define OCTAVES 4
#define CELLS 8

/* Gradient noise on a lattice: corners are gathered once a row, as in core/kernels/noise.ts. */
static void noise(void) {
  static const float GX[16] = {1, -1, 1, -1, 1, -1, 1, -1, 0, 0, 0, 0, 1, 0, -1, 0};
  static const float GY[16] = {1, 1, -1, -1, 0, 0, 0, 0, 1, -1, 1, -1, 1, -1, 1, -1};
  static float ca[CELLS << OCTAVES], cb[CELLS << OCTAVES];
  int *column = malloc(size * sizeof(int) * OCTAVES);
  float *along = malloc(size * sizeof(float) * OCTAVES), *faded = malloc(size * sizeof(float) * OCTAVES);
  for (int o = 0; o < OCTAVES; o++)
    for (int x = 0; x < size; x++) {
      double at = (x + 0.5) * (CELLS << o) / size;
      column[o * size + x] = (int)at;
      along[o * size + x] = (float)(at - (int)at);
      faded[o * size + x] = fade(along[o * size + x]);
    }
  for (int y = 0; y < size; y++) {
    float *sum = out + (size_t)y * size, amplitude = 1;
    memset(sum, 0, size * sizeof(float));
    for (int o = 0; o < OCTAVES; o++, amplitude *= 0.5f) {
      int columns = CELLS << o;
      double at = (y + 0.5) * columns / size;
      int iy = (int)at;
      float fy = (float)(at - iy), v = fade(fy);
      uint32_t near = hash_into(o, iy), far = hash_into(o, (iy + 1) % columns);
      for (int c = 0; c < columns; c++) {
        uint32_t g0 = (uint32_t)((uint64_t)hash_into(near, c) * 12 >> 32), g1 = (uint32_t)((uint64_t)hash_into(far, c) * 12 >> 32);
        ca[c] = (1 - v) * GX[g0] + v * GX[g1];
        cb[c] = (1 - v) * GY[g0] * fy + v * GY[g1] * (fy - 1);
      }
      ca[columns] = ca[0];
      cb[columns] = cb[0];
      const int *col = column + o * size;
      const float *fx = along + o * size, *ff = faded + o * size;
      for (int x = 0; x < size; x++) {
        int c = col[x];
        float a0 = ca[c], b0 = cb[c], da = ca[c + 1] - a0, db = cb[c + 1] - ca[c + 1] - b0;
        sum[x] += amplitude * (a0 * fx[x] + b0 + ff[x] * (da * fx[x] + db));
      }
    }
    for (int x = 0; x < size; x++) sum[x] = 0.5f + sum[x] * 0.26667f;
  }
  free(column); free(along); free(faded);
}

/* Nearest and second nearest point of a jittered lattice. */
static void cells(void) {
  enum { N = 8 };
  static float px[N][N], py[N][N];
  for (int j = 0; j < N; j++)
    for (int i = 0; i < N; i++) {
      uint32_t h = hash_into(hash_into(7, j), i);
      px[j][i] = (h >> 8) * 5.9604645e-8f;
      py[j][i] = (hash_into(h, 0x2545f) >> 8) * 5.9604645e-8f;
    }
  for (int y = 0; y < size; y++)
    for (int x = 0; x < size; x++) {
      float u = (x + 0.5f) * N / size, v = (y + 0.5f) * N / size;
      int cx = (int)u, cy = (int)v;
      float first = 1e9f, second = 1e9f;
      for (int j = -2; j <= 2; j++)
        for (int i = -2; i <= 2; i++) {
          int wx = (cx + i + N) % N, wy = (cy + j + N) % N;
          float dx = cx + i + px[wy][wx] - u, dy = cy + j + py[wy][wx] - v, d = dx * dx + dy * dy;
          if (d < first) { second = first; first = d; } else if (d < second) second = d;
        }
      out[(size_t)y * size + x] = sqrtf(first);
      mask[(size_t)y * size + x] = sqrtf(second);
    }
}

/* A box mean across, then down, by sums that move along. */
static void boxes(void) {
  enum { R = 24 };
  double *sums = calloc(size, sizeof(double));
  for (int y = 0; y < size; y++) {
    const float *row = a + (size_t)y * size;
    float *to = b + (size_t)y * size;
    double sum = 0;
    for (int x = -R; x <= R; x++) sum += row[(x + size) % size];
    for (int x = 0; x < size; x++) {
      to[x] = (float)(sum / (2 * R + 1));
      sum += row[(x + R + 1) % size] - row[(x - R + size) % size];
    }
  }
  for (int y = -R; y <= R; y++)
    for (int x = 0; x < size; x++) sums[x] += b[(size_t)((y + size) % size) * size + x];
  for (int y = 0; y < size; y++) {
    const float *in = b + (size_t)((y + R + 1) % size) * size, *gone = b + (size_t)((y - R + size) % size) * size;
    for (int x = 0; x < size; x++) {
      out[(size_t)y * size + x] = (float)(sums[x] / (2 * R + 1));
      sums[x] += in[x] - gone[x];
    }
  }
  free(sums);
}

/* A picture of four channels read between texels, over black. */
static void image(void) {
  enum { N = 512 };
  static float picture[N * N * 4];
  static int filled;
  for (; filled < N * N * 4; filled++) picture[filled] = a[filled % (size * size)];
  for (int y = 0; y < size; y++) {
    double py = (y + 0.5) / size * N - 0.5;
    int y0 = (int)floor(py), y1;
    float ty = (float)(py - y0);
    y1 = (y0 + 1 + N) % N;
    y0 = (y0 + N) % N;
    for (int x = 0; x < size; x++) {
      double px = (x + 0.5) / size * N - 0.5;
      int x0 = (int)floor(px), x1 = (x0 + 1 + N) % N;
      float tx = (float)(px - x0);
      x0 = (x0 + N) % N;
      float texel[4];
      for (int c = 0; c < 4; c++) {
        float p = picture[(y0 * N + x0) * 4 + c], q = picture[(y1 * N + x0) * 4 + c];
        float top = p + (picture[(y0 * N + x1) * 4 + c] - p) * tx, low = q + (picture[(y1 * N + x1) * 4 + c] - q) * tx;
        texel[c] = top + (low - top) * ty;
      }
      size_t i = (size_t)y * size + x;
      out[i] = texel[0];
      b[i] = texel[1];
      mask[i] = texel[2];
    }
  }
}

/* How far below each value its column passes 0 before the next; NAN where it does not. */
static void crossings(const float *values, float *part) {
  for (int y = 0; y < size; y++)
    for (int x = 0; x < size; x++) {
      float p = values[(size_t)y * size + x], q = values[(size_t)((y + 1) % size) * size + x], t = p / (p - q);
      part[(size_t)y * size + x] = (p >= 0) == (q >= 0) ? NAN : t < 1 / 1024.f ? 1 / 1024.f : t > 1023 / 1024.f ? 1023 / 1024.f : t;
    }
}

/* Ways down to the nearest crossing of each column by two sweeps, then the nearest across by the lower envelope of parabolas. */
static void nearest(const float *part, float *ways, short *across) {
  float *last = malloc(size * sizeof(float));
  for (int x = 0; x < size; x++) last[x] = NAN;
  for (int i = 0; i < 2 * size; i++)
    for (int x = 0; x < size; x++) {
      size_t at = (size_t)(i % size) * size + x;
      ways[at] = last[x] -= 1;
      if (part[at] == part[at]) last[x] = part[at];
    }
  for (int x = 0; x < size; x++) last[x] = NAN;
  for (int i = 0; i < 2 * size; i++)
    for (int x = 0; x < size; x++) {
      size_t at = (size_t)(size - 1 - i % size) * size + x;
      last[x] = part[at] == part[at] ? part[at] : last[x] + 1;
      if (ways[at] != ways[at] || last[x] < -ways[at]) ways[at] = last[x];
    }
  free(last);
  int margin = size / 2, length = size + 2 * margin;
  double *squares = malloc(length * sizeof(double)), *from = malloc((length + 1) * sizeof(double));
  int *place = malloc(length * sizeof(int));
  for (int y = 0; y < size; y++) {
    int count = 0;
    for (int q = 0; q < length; q++) {
      float d = ways[(size_t)y * size + (q - margin + size) % size];
      squares[q] = d * (double)d;
      if (d != d) continue;
      double start = -INFINITY;
      while (count > 0) {
        int p = place[count - 1];
        start = (squares[q] + (double)q * q - (squares[p] + (double)p * p)) / (2 * (q - p));
        if (start > from[count - 1]) break;
        count--;
        start = -INFINITY;
      }
      place[count] = q;
      from[count++] = start;
    }
    for (int x = 0, k = 0; x < size; x++) {
      int q = x + margin;
      while (k + 1 < count && from[k + 1] < q) k++;
      across[(size_t)y * size + x] = count ? place[k] - q : -32768;
    }
  }
  free(squares);
  free(from);
  free(place);
}

static inline double to_segment(double ax, double ay, double bx, double by) {
  double ux = bx - ax, uy = by - ay, length = ux * ux + uy * uy;
  double t = length > 0 ? -(ax * ux + ay * uy) / length : 0;
  t = t < 0 ? 0 : t > 1 ? 1 : t;
  ax += t * ux;
  ay += t * uy;
  return ax * ax + ay * ay;
}

/* Square of the way from a texel to the line in the cell at (x + dx, y + dy): marching squares, saddles by the mean. */
static double to_cell(const float *values, int x, int y, int dx, int dy) {
  int cx = (x + dx + 2 * size) % size, cy = (y + dy + 2 * size) % size;
  int right = (cx + 1) % size, below = (cy + 1) % size;
  double p = values[(size_t)cy * size + cx], q = values[(size_t)cy * size + right];
  double r = values[(size_t)below * size + right], s = values[(size_t)below * size + cx], ends[8];
  int n = 0;
  if ((p >= 0) != (q >= 0)) ends[n++] = p / (p - q), ends[n++] = 0;
  if ((q >= 0) != (r >= 0)) ends[n++] = 1, ends[n++] = q / (q - r);
  if ((s >= 0) != (r >= 0)) ends[n++] = s / (s - r), ends[n++] = 1;
  if ((p >= 0) != (s >= 0)) ends[n++] = 0, ends[n++] = p / (p - s);
  if (n == 0) return INFINITY;
  int first = n == 8 && (p + q + r + s >= 0) != (p >= 0) ? 3 : 0;
  double best = INFINITY;
  for (int i = 0; i < n / 2; i += 2) {
    const double *one = ends + 2 * ((first + i) % (n / 2)), *two = ends + 2 * ((first + i + 1) % (n / 2));
    double d = to_segment(one[0] + dx, one[1] + dy, two[0] + dx, two[1] + dy);
    if (d < best) best = d;
  }
  return best;
}

/* Distances from outside to the line at which a smooth field passes a half. */
static void distance(void) {
  size_t texels = (size_t)size * size;
  float *values = malloc(texels * 4), *turned = malloc(texels * 4), *part = malloc(texels * 4);
  float *down = malloc(texels * 4), *along = malloc(texels * 4);
  short *across = malloc(texels * 2), *over = malloc(texels * 2);
  for (int y = 0; y < size; y++)
    for (int x = 0; x < size; x++) turned[(size_t)x * size + y] = values[(size_t)y * size + x] = smooth[(size_t)y * size + x] - 0.5f;
  crossings(values, part);
  nearest(part, down, across);
  crossings(turned, part);
  nearest(part, along, over);
  for (int y = 0; y < size; y++)
    for (int x = 0; x < size; x++) {
      size_t i = (size_t)y * size + x;
      double best = INFINITY;
      if (values[i] >= 0) {
        out[i] = 0;
        continue;
      }
      int dx = across[i], dy = over[(size_t)x * size + y];
      if (dx != -32768) {
        int to = (int)floorf(down[(size_t)y * size + (x + dx + size) % size]);
        best = fmin(to_cell(values, x, y, dx, to), to_cell(values, x, y, dx - 1, to));
      }
      if (dy != -32768) {
        int to = (int)floorf(along[(size_t)x * size + (y + dy + size) % size]);
        best = fmin(best, fmin(to_cell(values, x, y, to, dy), to_cell(values, x, y, to, dy - 1)));
      }
      out[i] = (float)sqrt(best) / size;
    }
  free(values);
  free(turned);
  free(part);
  free(down);
  free(along);
  free(across);
  free(over);
}

static const struct { const char *name; void (*run)(void); } KERNELS[] = {
  {"soft-light", soft_light}, {"gaussian", gaussian}, {"warp", warp},   {"occlusion", occlusion}, {"srgb", srgb},
  {"noise", noise},           {"cells", cells},       {"boxes", boxes}, {"image", image},
  {"distance", distance},
};

int main(int count, char **words) {
  size = count > 1 ? atoi(words[1]) : 1024;
  size_t bytes = (size_t)size * size * sizeof(float);
  a = malloc(bytes);
  b = malloc(bytes);
  mask = malloc(bytes);
  out = malloc(bytes);
  smooth = malloc(bytes);
  line = malloc((size_t)(2 * size + 4 * TAPS) * sizeof(float));
  uint32_t state = 7;
  for (int i = 0; i < size * size; i++) {
    state = state * 747796405u + 2891336453u;
    a[i] = (state >> 8) / 16777216.0f;
    b[i] = (state * 277803737u >> 8) / 16777216.0f;
    mask[i] = (state * 2654435761u >> 8) / 16777216.0f;
  }
  for (int y = 0; y < size; y++)
    for (int x = 0; x < size; x++)
      smooth[(size_t)y * size + x] = 0.5f + 0.4f * sinf(31.4159265f * x / size) * cosf(18.8495559f * y / size);
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
