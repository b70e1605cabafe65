// Compares areas joined, taken away, overlapped, divided, cut apart and moved out or in by Falzkunst with those of an independent polygon library (Debian: libpolyclipping-dev).
// Usage, at the root of the repository:
//   FALZKUNST_AREAS=2000@9000 FALZKUNST_AREAS_OUT=/tmp/areas.txt ./test core Many_areas
//   g++ -O2 bench/together.cpp -lpolyclipping -o /tmp/together && /tmp/together < /tmp/areas.txt
// Each case is a line "number operation" and three sets of rings: both areas and our result, all as chords within 2e-5 mm, in units of 1e-7 mm. Areas of less
// than 0.01 mm² are no areas: what touches has none, and chords of two curves that touch have some.
#include <polyclipping/clipper.hpp>
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <string>

using namespace ClipperLib;

static Paths rings() {
  int n;
  std::cin >> n;
  Paths all(n);
  for (auto& ring : all) {
    int m;
    std::cin >> m;
    ring.resize(m);
    for (auto& p : ring) {
      long long x, y;
      std::cin >> x >> y;
      p.X = x;
      p.Y = y;
    }
  }
  return all;
}

static double area(const Paths& all) {
  double sum = 0;
  for (auto& ring : all) sum += Area(ring);
  return std::fabs(sum) / 1e14;
}

int main() {
  std::ios::sync_with_stdio(false);
  int cases = 0, count = 0, other = 0, thick = 0;
  double worst = 0;
  std::string what, operation;
  while (std::cin >> count >> operation) {
    Paths a = rings(), b = rings(), ours = rings(), theirs, apart;
    if (operation.rfind("outset:", 0) == 0) {
      // Its arcs are chords within 2e-5 mm, as ours are written.
      ClipperOffset moved(2, 2e-5 * 1e7);
      moved.AddPaths(a, jtRound, etClosedPolygon);
      moved.Execute(theirs, std::stod(operation.substr(7)) * 1e7);
    } else {
      Clipper clipper;
      clipper.AddPaths(a, ptSubject, true);
      clipper.AddPaths(b, ptClip, true);
      clipper.Execute(operation == "join" ? ctUnion : operation == "take" ? ctDifference : ctIntersection, theirs, pftEvenOdd, pftEvenOdd);
    }
    Clipper both;
    both.AddPaths(theirs, ptSubject, true);
    both.AddPaths(ours, ptClip, true);
    both.Execute(ctXor, apart, pftEvenOdd, pftEvenOdd);
    // What is left of the difference when its edges come in by half of 0.002 mm is thicker than that somewhere.
    ClipperOffset offset;
    offset.AddPaths(apart, jtMiter, etClosedPolygon);
    Paths left;
    offset.Execute(left, -0.001 * 1e7);
    cases++;
    double expected = area(theirs), got = area(ours);
    if (area(left) > 1e-10) {
      thick++;
      std::printf("%d %s: outlines more than 0.002 mm apart\n", count, operation.c_str());
    }
    if (expected < 0.01) {
      if (got > 0.01) other++;
      continue;
    }
    double off = std::fabs(expected - got) / std::max(expected, 1.0);
    if (off > worst) {
      worst = off;
      what = std::to_string(count) + " " + operation;
    }
  }
  std::printf("%d cases: %d with outlines more than 0.002 mm apart, %d where only one has an area; areas at most %.1e apart, relative to at least 1 mm2 (%s)\n",
    cases, thick, other, worst, what.c_str());
}
