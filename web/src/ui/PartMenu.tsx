import { useState } from "react";
import { Dropdown } from "react-bootstrap";

import { AskName } from "./AskName";

export interface MenuItem {
  name: string;
  act: () => void;
  disabled?: boolean;
  /** Why it cannot be done now. */
  why?: string;
}

interface Props {
  /** What it is about, as 'view "Long view"'. */
  about: string;
  /** Its name now, to be changed; left out where it has none. */
  name?: string;
  /** May be without a name. */
  optional?: boolean;
  rename?: (name: string) => void;
  items: MenuItem[];
  className?: string;
  label?: string;
}

/** What can be done with a part as a whole: rename, copy, move, take away. */
export function PartMenu({ about, name = "", optional, rename, items, className, label = "More" }: Props) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Dropdown className={`part-menu ${className ?? ""}`}>
        <Dropdown.Toggle variant="link" size="sm" aria-label={`${label}: ${about}`} className="more">
          {label}
        </Dropdown.Toggle>
        <Dropdown.Menu renderOnMount={false} popperConfig={{ strategy: "fixed" }}>
          {rename && (
            <Dropdown.Item as="button" onClick={() => setAsking(true)}>
              Rename…
            </Dropdown.Item>
          )}
          {items.map((item) => (
            <Dropdown.Item
              as="button"
              key={item.name}
              disabled={item.disabled}
              title={item.disabled ? item.why : undefined}
              onClick={item.act}
            >
              {item.name}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      {asking && rename && (
        <AskName
          title={`Name of ${about}`}
          value={name}
          optional={optional}
          accept={rename}
          close={() => setAsking(false)}
        />
      )}
    </>
  );
}
