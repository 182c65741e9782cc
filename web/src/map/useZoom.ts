/** How close one looks: by a wheel or a touchpad with Ctrl, by two fingers, or as told. */
import { useEffect, useRef, useState } from "react";

const [LEAST, LEGIBLE, MOST] = [0.1, 0.8, 4];
export const STEP = 1.25;

const within = (zoom: number) => Math.min(Math.max(zoom, LEAST), MOST);

/** How high a frame can be, px. */
const highest = (frame: HTMLElement | null) =>
  Math.min(
    ...[frame, frame?.parentElement]
      .map((each) => each && Number.parseFloat(getComputedStyle(each).maxHeight))
      .filter((each): each is number => Number.isFinite(each)),
  );

const apart = ({ touches: [one, other] }: TouchEvent) =>
  one && other ? Math.hypot(one.clientX - other.clientX, one.clientY - other.clientY) : null;

/** At first the whole width, or what can be read of it; `page` at its full size is shown in a frame of this width. */
export function useZoom(frame: HTMLElement | null, width: number, page: { width: number; height: number }) {
  const [chosen, setChosen] = useState<number | null>(null);
  const fitting = width > 0 ? Math.min(1, width / page.width) : 1;
  const zoom = chosen ?? Math.max(fitting, LEGIBLE);
  const now = useRef(zoom);
  now.current = zoom;
  useEffect(() => {
    let begun: { apart: number; zoom: number } | null = null;
    const byWheel = (event: WheelEvent) => {
      if (!event.ctrlKey) return; // a wheel alone scrolls; so does a touchpad, and its pinch comes with Ctrl
      event.preventDefault();
      setChosen(within(now.current * STEP ** -Math.sign(event.deltaY)));
    };
    const begin = (event: TouchEvent) => {
      const wide = apart(event);
      begun = wide ? { apart: wide, zoom: now.current } : null;
    };
    const pinch = (event: TouchEvent) => {
      const wide = apart(event);
      if (!begun || !wide) return;
      event.preventDefault();
      setChosen(within((begun.zoom * wide) / begun.apart));
    };
    frame?.addEventListener("wheel", byWheel, { passive: false });
    frame?.addEventListener("touchstart", begin, { passive: true });
    frame?.addEventListener("touchmove", pinch, { passive: false });
    return () => {
      frame?.removeEventListener("wheel", byWheel);
      frame?.removeEventListener("touchstart", begin);
      frame?.removeEventListener("touchmove", pinch);
    };
  }, [frame]);
  return {
    zoom,
    by: (steps: number) => setChosen(within(zoom * STEP ** steps)),
    whole: () => setChosen(within(Math.min(fitting, highest(frame) / page.height))),
  };
}
