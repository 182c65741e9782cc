/** How close one looks: by a wheel or a touchpad with Ctrl, by two fingers, or as told. */
import { useEffect, useRef, useState } from "react";

const [LEAST, LEGIBLE, MOST] = [0.25, 0.8, 4];
export const STEP = 1.25;

const within = (zoom: number) => Math.min(Math.max(zoom, LEAST), MOST);

const apart = ({ touches: [one, other] }: TouchEvent) =>
  one && other ? Math.hypot(one.clientX - other.clientX, one.clientY - other.clientY) : null;

/** At first the whole width, or what can be read of it. `fitting` is what fits the width. */
export function useZoom(frame: HTMLElement | null, fitting: number) {
  const [chosen, setChosen] = useState<number | null>(null);
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
    whole: () => setChosen(within(fitting)),
  };
}
