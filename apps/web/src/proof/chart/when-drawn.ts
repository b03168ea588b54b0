/** So many frames a chart is waited for; then what waits for it goes on without. */
const FRAMES_MOST = 300;

/** Waits, frame by frame, until a chart is drawn below an element; gives whether it was, or false once it is told to stop. */
export async function whenDrawn(within: ParentNode, signal?: AbortSignal): Promise<boolean> {
  const drawn = () => within.querySelector('figure svg path') !== null;
  for (let frame = 0; frame < FRAMES_MOST && !drawn() && signal?.aborted !== true; frame++)
    await new Promise((resolve) => requestAnimationFrame(resolve));
  return drawn() && signal?.aborted !== true;
}
