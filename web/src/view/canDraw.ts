/** Whether this browser can draw the model at all. */
export const canDraw = (() => {
  try {
    const tried = document.createElement("canvas").getContext("webgl2");
    tried?.getExtension("WEBGL_lose_context")?.loseContext();
    return tried !== null;
  } catch {
    return false;
  }
})();
