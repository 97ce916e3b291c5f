import { type ImgHTMLAttributes, useEffect, useRef, useState } from "react";

/** Pictures the server has to make take turns, so that edits find a free connection. */
const AT_ONCE = 2;
let underway = 0;
const waiting: (() => void)[] = [];

function next() {
  while (underway < AT_ONCE && waiting.length > 0) {
    underway += 1;
    waiting.shift()!();
  }
}

/** Ask for a turn; the result gives it back, or gives up waiting. */
function takeTurn(start: () => void): () => void {
  let state: "waiting" | "underway" | "over" = "waiting";
  const go = () => {
    state = "underway";
    start();
  };
  waiting.push(go);
  next();
  return () => {
    if (state === "underway") underway -= 1;
    else waiting.splice(waiting.indexOf(go), state === "waiting" ? 1 : 0);
    state = "over";
    next();
  };
}

/** An image that is loaded when it comes into sight and its turn has come. */
export function PatientImage({ src, alt, ...rest }: ImgHTMLAttributes<HTMLImageElement> & { src: string }) {
  const place = useRef<HTMLImageElement>(null);
  const done = useRef<() => void>(() => undefined);
  const [loaded, setLoaded] = useState<string>();

  useEffect(() => {
    const watcher = new IntersectionObserver((seen) => {
      if (!seen.some((s) => s.isIntersecting)) return;
      watcher.disconnect();
      done.current = takeTurn(() => setLoaded(src));
    });
    if (place.current) watcher.observe(place.current);
    return () => {
      watcher.disconnect();
      done.current();
    };
  }, [src]);

  return (
    <img
      // What it stands for is dragged, not the image, which may not be there yet.
      draggable={false}
      {...rest}
      ref={place}
      alt={alt}
      src={loaded === src ? src : undefined}
      onLoad={() => done.current()}
      onError={() => done.current()}
    />
  );
}
