import type { Material } from '../scene';

/** Materials that more than one shot uses, in OpenPBR Surface terms. */

export const WINDOW_GLASS: Partial<Material> = {
  base_color: [0.97, 0.985, 0.98],
  specular_roughness: 0,
  specular_ior: 1.52,
  transmission_weight: 1,
  geometry_thin_walled: true,
};

export const HEMP: Partial<Material> = {
  base_color: [0.45, 0.34, 0.2],
  base_diffuse_roughness: 0.7,
  specular_weight: 0.3,
  specular_roughness: 0.6,
};
