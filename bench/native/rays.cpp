// The native yardstick: an established ray library on the same triangles and rays. Reads a file of
// u32 vertices, u32 triangles, u32 rays per set, u32 sets, then positions, indices and, for each set, rays of
// 8 floats (origin, direction, far, kind: 0 closest, 1 any). Prints Mrays/s a set, best quality build last.
#include <embree3/rtcore.h>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <vector>
#include <algorithm>

static double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

int main(int argc, char** argv) {
  FILE* f = fopen(argv[1], "rb");
  unsigned head[4];
  if (!f || fread(head, 4, 4, f) != 4) return 1;
  std::vector<float> positions(head[0] * 3);
  std::vector<unsigned> indices(head[1] * 3);
  std::vector<float> rays((size_t)head[2] * 8 * head[3]);
  if (fread(positions.data(), 4, positions.size(), f) != positions.size()) return 1;
  if (fread(indices.data(), 4, indices.size(), f) != indices.size()) return 1;
  if (fread(rays.data(), 4, rays.size(), f) != rays.size()) return 1;
  for (int quality = 0; quality < 2; quality++) {
    RTCDevice device = rtcNewDevice("threads=1");
    RTCScene scene = rtcNewScene(device);
    rtcSetSceneBuildQuality(scene, quality ? RTC_BUILD_QUALITY_HIGH : RTC_BUILD_QUALITY_MEDIUM);
    RTCGeometry mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    float* v = (float*)rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, head[0]);
    std::copy(positions.begin(), positions.end(), v);
    unsigned* t = (unsigned*)rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, head[1]);
    std::copy(indices.begin(), indices.end(), t);
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(scene, mesh);
    double before = now();
    rtcCommitScene(scene);
    printf("%s build %f\n", quality ? "high" : "default", now() - before);
    for (unsigned s = 0; s < head[3]; s++) {
      std::vector<double> rates;
      for (int repeat = 0; repeat < 3; repeat++) {
        const float* r = &rays[(size_t)s * head[2] * 8];
        unsigned hits = 0;
        before = now();
        for (unsigned i = 0; i < head[2]; i++, r += 8) {
          RTCIntersectContext context;
          rtcInitIntersectContext(&context);
          RTCRayHit q;
          q.ray.org_x = r[0]; q.ray.org_y = r[1]; q.ray.org_z = r[2];
          q.ray.dir_x = r[3]; q.ray.dir_y = r[4]; q.ray.dir_z = r[5];
          q.ray.tnear = 0; q.ray.tfar = r[6]; q.ray.time = 0; q.ray.mask = ~0u; q.ray.flags = 0;
          q.hit.geomID = RTC_INVALID_GEOMETRY_ID; q.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
          if (r[7] == 0) { rtcIntersect1(scene, &context, &q); hits += q.hit.geomID != RTC_INVALID_GEOMETRY_ID; }
          else { rtcOccluded1(scene, &context, &q.ray); hits += q.ray.tfar < 0; }
        }
        rates.push_back(head[2] / (now() - before) / 1e6);
        if (!repeat) printf("%s hits %u %u\n", quality ? "high" : "default", s, hits);
      }
      std::sort(rates.begin(), rates.end());
      printf("%s rate %u %f\n", quality ? "high" : "default", s, rates[1]);
    }
    rtcReleaseGeometry(mesh);
    rtcReleaseScene(scene);
    rtcReleaseDevice(device);
  }
}
