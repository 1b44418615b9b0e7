// The native side of the solver's comparison: Eigen's simplicial LDLᵀ with AMD on a pattern written by scripts/benchSeams.ts.
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>
#include <chrono>
#include <cstdio>
#include <vector>

using Sparse = Eigen::SparseMatrix<double>;

static double now() { return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

static double median(const Sparse &matrix) {
  Eigen::SimplicialLDLT<Sparse> solver;
  solver.analyzePattern(matrix);
  std::vector<double> times;
  for (int k = 0; k < 5; k++) {
    double start = now();
    solver.factorize(matrix);
    times.push_back(now() - start);
  }
  std::sort(times.begin(), times.end());
  return times[2];
}

int main(int, char **arguments) {
  FILE *file = fopen(arguments[1], "rb");
  int size, count;
  if (!file || fread(&size, 4, 1, file) != 1 || fread(&count, 4, 1, file) != 1) return 1;
  std::vector<int> pairs(2 * count);
  if (fread(pairs.data(), 4, 2 * count, file) != size_t(2 * count)) return 1;
  // the graph's Laplacian with a little on the diagonal; coupled, that times [1 .3; .3 1]
  std::vector<double> diagonal(size, .01);
  for (int k = 0; k < count; k++)
    if (pairs[2 * k] != pairs[2 * k + 1]) diagonal[pairs[2 * k]]++, diagonal[pairs[2 * k + 1]]++;
  std::vector<Eigen::Triplet<double>> one, two;
  for (int k = 0; k < count; k++) {
    int i = pairs[2 * k], j = pairs[2 * k + 1];
    double value = i == j ? diagonal[i] : -1.;
    one.emplace_back(i, j, value);
    for (int p = 0; p < 2; p++)
      for (int q = 0; q < 2; q++)
        if (i * 2 + p >= j * 2 + q) two.emplace_back(i * 2 + p, j * 2 + q, value * (p == q ? 1. : .3));
  }
  Sparse a(size, size), b(2 * size, 2 * size);
  a.setFromTriplets(one.begin(), one.end());
  b.setFromTriplets(two.begin(), two.end());
  double first = median(a);
  printf("%.1f %.1f\n", first, median(b));
}
