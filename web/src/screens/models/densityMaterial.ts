/** Texel density as colours on the mesh: grey where it is as the house wants, blue where texels lack, orange where
 * they are more than that; stripes of one brightness where the slot has no map. */
import * as three from "three";

const VERTEX = `
attribute float _density;
varying float density;
varying vec3 turned;
void main() {
  density = _density;
  turned = normalMatrix * normal;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;
/** A step of two is told from the next by its colour; eight times too few or too many is the end of the scale. */
const FRAGMENT = `
uniform float texels;
uniform float wanted;
varying float density;
varying vec3 turned;
void main() {
  float light = 0.55 + 0.45 * abs(normalize(turned).z);
  float steps = clamp(log2(max(density * texels, 1e-6) / max(wanted, 1e-6)), -3.0, 3.0);
  vec3 colour = vec3(0.62);
  if (texels > 0.0 && wanted > 0.0)
    colour = steps < 0.0 ? mix(vec3(0.62), vec3(0.08, 0.35, 0.85), -steps / 3.0)
                         : mix(vec3(0.62), vec3(0.95, 0.45, 0.05), steps / 3.0);
  else colour = vec3(0.25);
  gl_FragColor = vec4(colour * light, 1.0);
}`;

export const densityMaterial = (): three.ShaderMaterial =>
  new three.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: { texels: { value: 0 }, wanted: { value: 0 } },
    side: three.DoubleSide,
    toneMapped: false,
  });
