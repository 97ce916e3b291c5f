import { useEffect, useId, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type PlaceLine } from "../api/client";
import { classesOf } from "../ui/classes";
import styles from "./PlaceFinder.module.css";

const cls = classesOf(styles);

interface Props {
  label: string;
  /** Name of the place chosen, empty where none is. */
  value: string;
  choose: (place: PlaceLine) => void;
}

/** Find a place by the beginning of its name: invented ones, plain latitudes, and the world's towns. */
export function PlaceFinder({ label, value, choose }: Props) {
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const [found, setFound] = useState<PlaceLine[]>([]);
  const [answered, setAnswered] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const open = text !== null;
  const known = answered === text;
  useEffect(() => {
    if (text === null) return;
    let alive = true;
    const wait = window.setTimeout(
      () =>
        api.places(text).then(
          (places) => {
            if (!alive) return;
            setFound(places);
            setAnswered(text);
            setAt(0);
          },
          () => undefined,
        ),
      120,
    );
    return () => {
      alive = false;
      window.clearTimeout(wait);
    };
  }, [text]);
  const take = (place: PlaceLine | undefined) => {
    if (!place) return;
    choose(place);
    setText(null);
  };
  return (
    <div className={cls("place-finder")}>
      <Form.Label htmlFor={id} className="mb-1">
        {label}
      </Form.Label>
      <Form.Control
        id={id}
        size="sm"
        role="combobox"
        aria-expanded={open}
        aria-controls={`${id}-list`}
        aria-activedescendant={open && found[at] ? `${id}-${at}` : undefined}
        aria-autocomplete="list"
        autoComplete="off"
        placeholder="Begin to write a town"
        value={text ?? value}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => setText(null)}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown" && !open) setText("");
          else if (e.key === "ArrowDown") setAt((k) => Math.min(k + 1, found.length - 1));
          else if (e.key === "ArrowUp" && open) setAt((k) => Math.max(k - 1, 0));
          else if (e.key === "Enter" && open) take(known ? found[at] : undefined);
          else if (e.key === "Escape" && open) setText(null);
          else return;
          e.preventDefault();
        }}
      />
      <ul id={`${id}-list`} role="listbox" aria-label={`${label}: found`} hidden={!open}>
        {found.map((place, k) => (
          <li
            key={`${place.name}${place.latitude_deg}`}
            id={`${id}-${k}`}
            role="option"
            aria-selected={k === at}
            onPointerDown={(e) => {
              e.preventDefault();
              take(place);
            }}
          >
            <span>{place.name}</span> <span className="number quiet">{coordinates(place)}</span>
          </li>
        ))}
        {open && text !== "" && known && found.length === 0 && (
          <li className="quiet" role="option" aria-selected={false} aria-disabled="true">
            No such town: take one near by and set the coordinates on the bench
          </li>
        )}
      </ul>
    </div>
  );
}

/** "46.60° N 9.84° E" */
export function coordinates(p: { latitude_deg?: number; longitude_deg?: number }): string {
  const { latitude_deg: lat = 0, longitude_deg: lon = 0 } = p;
  return `${Math.abs(lat).toFixed(2)}° ${lat >= 0 ? "N" : "S"} ${Math.abs(lon).toFixed(2)}° ${lon >= 0 ? "E" : "W"}`;
}
