// Lays out pieces with an independent packing library by no-fit polygons (Debian: libnest2d-dev), as a judge of the density of Falzkunst's layouts.
// Usage: g++ -O2 -std=c++17 -DLIBNEST2D_GEOMETRIES_clipper -DLIBNEST2D_OPTIMIZER_nlopt -DLIBNEST2D_THREADING_std bench/packing.cpp
//   -lpolyclipping -lnlopt -lnlopt_cxx -pthread -o bench/samples/packing
// Reads: gap width height turns, then a piece a line: count, corners, x y of each, in mm.
// Writes: sheets, part of the last one that is used, area placed, seconds.
#include <libnest2d/libnest2d.hpp>
#include <chrono>
#include <cmath>
#include <iostream>

using namespace libnest2d;
const double Unit = 1e5;

int main() {
  double gap, width, height;
  int turns;
  std::cin >> gap >> width >> height >> turns;
  std::vector<Item> items;
  int count, n;
  while (std::cin >> count >> n) {
    ClipperLib::Path ring;
    for (int i = 0; i < n; i++) {
      double x, y;
      std::cin >> x >> y;
      ring.emplace_back((ClipperLib::cInt)std::llround(x * Unit), (ClipperLib::cInt)std::llround(y * Unit));
    }
    if (ClipperLib::Orientation(ring)) std::reverse(ring.begin(), ring.end());
    ring.push_back(ring.front());
    for (int c = 0; c < count; c++) items.emplace_back(ring);
  }
  NestConfig<NfpPlacer, FirstFitSelection> config;
  config.placer_config.rotations.clear();
  for (int k = 0; k < turns; k++) config.placer_config.rotations.emplace_back(k * 2 * M_PI / turns);
  config.placer_config.parallel = true;
  config.placer_config.alignment = NfpPlacer::Config::Alignment::BOTTOM_LEFT;
  config.placer_config.starting_point = NfpPlacer::Config::Alignment::BOTTOM_LEFT;
  auto begun = std::chrono::steady_clock::now();
  Box bin((ClipperLib::cInt)(width * Unit), (ClipperLib::cInt)(height * Unit), {(ClipperLib::cInt)(width * Unit / 2), (ClipperLib::cInt)(height * Unit / 2)});
  nest(items, bin, (ClipperLib::cInt)(gap * Unit), config);
  int sheets = 0, missing = 0;
  double area = 0;
  for (auto& i : items) {
    if (i.binId() < 0) { missing++; continue; }
    sheets = std::max(sheets, i.binId() + 1);
    area += std::abs(i.area()) / Unit / Unit;
  }
  // The last sheet: the one with the smallest part in use, from whichever side.
  double part = 1;
  for (int s = 0; s < sheets; s++) {
    double top = 1e300, bottom = -1e300, left = 1e300, right = -1e300;
    for (auto& i : items) {
      if (i.binId() != s) continue;
      auto box = i.boundingBox();
      top = std::min(top, (double)getY(box.minCorner())), bottom = std::max(bottom, (double)getY(box.maxCorner()));
      left = std::min(left, (double)getX(box.minCorner())), right = std::max(right, (double)getX(box.maxCorner()));
    }
    part = std::min(part, std::min((bottom - top) / Unit / height, (right - left) / Unit / width));
  }
  std::cout << "{\"sheets\":" << sheets << ",\"part\":" << part << ",\"areaMm2\":" << area << ",\"missing\":" << missing << ",\"seconds\":"
    << std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count() << "}\n";
}
