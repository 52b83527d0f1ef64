/** What draws on a canvas: one for as long as the canvas is on the page, with all the shaders it has compiled. */
import { WebGLRenderer } from "three";

const renderers = new WeakMap<HTMLCanvasElement, WebGLRenderer>();
const kept = new WeakMap<WebGLRenderer, number>(); // how many of its programs

export function rendererOf(canvas: HTMLCanvasElement): WebGLRenderer {
  const there = renderers.get(canvas);
  if (there && !there.getContext().isContextLost()) return there;
  const made = new WebGLRenderer({ canvas, antialias: true, alpha: true, stencil: true });
  made.localClippingEnabled = true;
  made.setPixelRatio(Math.min(window.devicePixelRatio, 2));
  renderers.set(canvas, made);
  return made;
}

/** Shaders stay when nothing is drawn with them for a while, as after every build: compiling them again holds up the
 * page. There are some dozen kinds. */
export function keepCompiled(renderer: WebGLRenderer) {
  const programs = renderer.info.programs ?? [];
  for (const program of programs.slice(kept.get(renderer) ?? 0)) program.usedTimes += 1;
  kept.set(renderer, programs.length);
}

/** A canvas that has left the page is drawn on no more. */
export function doneWith(canvas: HTMLCanvasElement) {
  if (canvas.isConnected) return;
  renderers.get(canvas)?.dispose();
  renderers.delete(canvas);
}
