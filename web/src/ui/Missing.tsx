import { Link } from "react-router";

/** A page for what does not exist: says so and leads on. */
export function Missing({ what, to }: { what: string; to?: string }) {
  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
      </header>
      <main className="wall">
        <div className="sheet" style={{ maxWidth: 620 }}>
          <h1 style={{ fontSize: 26 }}>Not here</h1>
          <p className="mt-2">{what}</p>
          {to && (
            <>
              <Link to={to}>To the wall of this project</Link> ·{" "}
            </>
          )}
          <Link to="/projects">See all projects</Link>
        </div>
      </main>
    </div>
  );
}
