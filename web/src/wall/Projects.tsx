import { useEffect, useState, type FormEvent } from "react";
import { Form } from "react-bootstrap";
import { Link, useNavigate } from "react-router";

import { api, type ProjectLine, Refusal } from "../api/client";
import { Button } from "../ui/Button";

/** All projects, and the start of a new one. `goStraight` opens the only project at once. */
export function Projects({ goStraight = false }: { goStraight?: boolean }) {
  const [projects, setProjects] = useState<ProjectLine[] | null>(null);
  const [name, setName] = useState("");
  const [problem, setProblem] = useState("");
  const navigate = useNavigate();

  useEffect(() => {
    document.title = "Valleylight";
    api.projects().then(
      (list) => {
        if (goStraight && list.length === 1) navigate(`/p/${list[0].slug}`, { replace: true });
        else setProjects(list);
      },
      (error: Error) => setProblem(error.message),
    );
  }, [goStraight, navigate]);

  const create = async (event: FormEvent) => {
    event.preventDefault();
    try {
      const made = await api.createProject(name);
      navigate(`/p/${made.slug}`);
    } catch (error) {
      setProblem(error instanceof Refusal ? error.message : String(error));
    }
  };

  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
      </header>
      <main className="wall">
        <div className="wall-title">
          <h1>Projects</h1>
        </div>
        <div className="sheet" style={{ maxWidth: 760 }}>
          {projects?.length === 0 && <p>There is no project yet. Name one below to begin.</p>}
          <ul className="list-unstyled">
            {projects?.map((p) => (
              <li key={p.slug} className="d-flex align-items-baseline gap-3 py-2 border-bottom">
                <Link to={`/p/${p.slug}`} className="named" style={{ fontSize: 19, color: "var(--ink)" }}>
                  {p.name}
                </Link>
                <span className="quiet number">
                  {p.views} views · {p.occasions} occasions · {p.plates} plates
                </span>
              </li>
            ))}
          </ul>
          <Form onSubmit={create} className="d-flex gap-2 align-items-end mt-3" noValidate>
            <Form.Group controlId="new-project" style={{ width: 320 }}>
              <Form.Label className="mb-1">Name of a new project</Form.Label>
              <Form.Control
                value={name}
                maxLength={80}
                isInvalid={problem !== ""}
                onChange={(e) => {
                  setName(e.target.value);
                  setProblem("");
                }}
              />
            </Form.Group>
            <Button type="submit" variant="dark">
              Begin
            </Button>
          </Form>
          {problem && (
            <p role="alert" className="error-text mt-2 mb-0">
              {problem}
            </p>
          )}
        </div>
      </main>
    </div>
  );
}
