/** Vertex colours on the mesh: red, green and blue as they are, or alpha alone as grey. */
import * as three from "three";

const VERTEX = `
attribute vec4 ftVertex;
varying vec4 colour;
varying vec3 turned;
void main() {
  colour = ftVertex;
  turned = normalMatrix * normal;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;
const FRAGMENT = `
uniform float alphaAlone;
varying vec4 colour;
varying vec3 turned;
void main() {
  float light = 0.55 + 0.45 * abs(normalize(turned).z);
  // What is not painted stays visible as a dark grey.
  vec3 shown = mix(0.16 + 0.84 * colour.rgb, vec3(0.16 + 0.84 * colour.a), alphaAlone);
  gl_FragColor = vec4(shown * light, 1.0);
}`;

export const colourMaterial = (): three.ShaderMaterial =>
  new three.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: { alphaAlone: { value: 0 } },
    side: three.DoubleSide,
    toneMapped: false,
  });
