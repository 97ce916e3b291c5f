interface Props<T extends string> {
  label: string;
  tabs: [T, string][];
  current: T;
  choose: (key: T) => void;
  className: string;
  /** Class of a single tab. */
  tab?: string;
}

/** Tabs as one stop of the Tab key, with the arrow keys inside. */
export function Tabs<T extends string>({ label, tabs, current, choose, className, tab }: Props<T>) {
  return (
    <div
      className={className}
      role="tablist"
      aria-label={label}
      onKeyDown={(e) => {
        const now = tabs.findIndex(([key]) => key === current);
        const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
        const to = by !== undefined ? now + by : { Home: 0, End: tabs.length - 1 }[e.key];
        if (to === undefined) return;
        e.preventDefault();
        const next = (to + tabs.length) % tabs.length;
        choose(tabs[next][0]);
        (e.currentTarget.children[next] as HTMLElement).focus();
      }}
    >
      {tabs.map(([key, name]) => (
        <button
          key={key}
          className={tab}
          role="tab"
          aria-selected={current === key}
          tabIndex={current === key ? 0 : -1}
          onClick={() => choose(key)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
