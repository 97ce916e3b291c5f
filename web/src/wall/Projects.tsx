import { useEffect, useRef, useState, type FormEvent } from "react";
import { Form } from "react-bootstrap";
import { Link, useNavigate } from "react-router";

import { api, type PlaceLine, type ProjectLine, Refusal } from "../api/client";
import { coordinates, PlaceFinder } from "../daylight/PlaceFinder";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { bytesText, momentText } from "../ui/format";
import { PartMenu } from "../ui/PartMenu";
import { useKeys } from "../ui/useKeys";
import { useQuery } from "@tanstack/react-query";
import { queries } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./Projects.module.css";
import roomStyles from "./wall.module.css";

const cls = classesOf(styles, roomStyles);

const both = async () => {
  const [list, gone] = await Promise.all([api.projects(), api.projects(true)]);
  return { list, gone };
};

/** All projects, and the start of a new one. `goStraight` opens the only project at once. */
export function Projects({ goStraight = false }: { goStraight?: boolean }) {
  const { data, error } = useQuery({ queryKey: ["projects"], queryFn: both }, queries);
  const projects = data?.list ?? null;
  const away = data?.gone ?? [];
  const problem = error?.message ?? "";
  const navigate = useNavigate();
  const notify = useStore((s) => s.notify);
  /** What has been done to the list in this page, each with its way back. */
  const done = useRef<(() => Promise<unknown>)[]>([]);

  const reload = () => queries.invalidateQueries({ queryKey: ["projects"] });
  useEffect(() => {
    document.title = "Valleylight";
  }, []);
  useEffect(() => {
    if (goStraight && projects?.length === 1) navigate(`/p/${projects[0].slug}`, { replace: true });
  }, [goStraight, navigate, projects]);

  const act = async (work: () => Promise<unknown>, back?: () => Promise<unknown>) => {
    try {
      await work();
      if (back) done.current.push(back);
      await reload();
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const undo = () => {
    const back = done.current.pop();
    if (back) void act(back);
  };
  useKeys({ "ctrl+z": undo });

  const rename = (p: ProjectLine, name: string) => {
    const put = async (to: string) =>
      api.edit(p.slug, "Rename project", [{ part: "name", key: "", value: to }], null);
    void act(
      () => put(name),
      () => put(p.name),
    );
  };
  const move = (p: ProjectLine, place: number, from: number) =>
    void act(
      () => api.placeProject(p.slug, place),
      () => api.placeProject(p.slug, from),
    );
  const duplicate = (p: ProjectLine) => {
    let made = "";
    void act(
      async () => (made = (await api.duplicateProject(p.slug)).slug),
      () => api.putAway(made),
    );
  };
  const putAway = async (p: ProjectLine) => {
    await act(
      () => api.putAway(p.slug),
      () => api.bringBack(p.slug),
    );
    notify(`Project “${p.name}” is put away, with all that it holds.`, "info", [
      { label: "Undo", act: undo },
    ]);
  };

  return (
    <div className="page">
      <header className="top">
        <Link className="brand" to="/projects">
          Valleylight
        </Link>
      </header>
      <main className="wall">
        <div className={cls("wall-title")}>
          <h1>Projects</h1>
        </div>
        <div className={cls("projects")}>
          <section className="sheet" aria-label="Projects">
            {problem && (
              <p role="alert" className="error-text">
                {problem}
              </p>
            )}
            {projects?.length === 0 && (
              <p>There is no project yet. Name one beside this and say where it stands.</p>
            )}
            <ul className="list-unstyled mb-0">
              {projects?.map((p, k) => (
                <li key={p.slug} className={cls("project-line")}>
                  <Link
                    to={`/p/${p.slug}`}
                    className={cls("project-picture")}
                    tabIndex={-1}
                    aria-hidden="true"
                  >
                    {p.picture ? (
                      <img src={api.thumb(p.picture)} alt="" loading="lazy" />
                    ) : (
                      <span className="blank" />
                    )}
                  </Link>
                  <div className={cls("project-words")}>
                    <Link to={`/p/${p.slug}`} className="named" title={p.name}>
                      {p.name}
                    </Link>
                    <span className="quiet">{p.place}</span>
                    <span className="quiet number">
                      {p.views} views · {p.occasions} occasions · {p.plates} plates · {bytesText(p.bytes)} ·
                      changed {momentText(p.changed)}
                    </span>
                  </div>
                  <PartMenu
                    about={`project “${p.name}”`}
                    name={p.name}
                    rename={(name) => rename(p, name)}
                    items={[
                      { name: "Duplicate", act: () => duplicate(p) },
                      { name: "Up", disabled: k === 0, act: () => move(p, k - 1, k) },
                      { name: "Down", disabled: k === projects.length - 1, act: () => move(p, k + 1, k) },
                      { name: "Delete", act: () => void putAway(p) },
                    ]}
                  />
                </li>
              ))}
            </ul>
          </section>
          <aside>
            <NewProject />
            {away.length > 0 && (
              <section className="sheet mt-3" aria-label="Deleted projects">
                <h2 style={{ fontSize: 18 }}>Deleted</h2>
                <p className="quiet">Kept with all that they hold until you bring them back.</p>
                <ul className="list-unstyled mb-0">
                  {away.map((p) => (
                    <li key={p.slug} className="d-flex gap-2 align-items-center py-1">
                      <span className="flex-grow-1 text-truncate" title={p.name}>
                        {p.name}
                      </span>
                      <Button
                        size="sm"
                        variant="outline-dark"
                        aria-label={`Bring ${p.name} back`}
                        onClick={() =>
                          void act(
                            () => api.bringBack(p.slug),
                            () => api.putAway(p.slug),
                          )
                        }
                      >
                        Bring back
                      </Button>
                    </li>
                  ))}
                </ul>
              </section>
            )}
          </aside>
        </div>
      </main>
    </div>
  );
}

/** A name and a place: without a place there is no sun. */
function NewProject() {
  const [name, setName] = useState("");
  const [place, setPlace] = useState<PlaceLine | null>(null);
  const [problem, setProblem] = useState<{ text: string; field: "name" | "place" } | null>(null);
  const navigate = useNavigate();
  const create = async (event: FormEvent) => {
    event.preventDefault();
    if (name.trim() === "") {
      setProblem({ field: "name", text: "Give it a name; it can be changed later." });
      return;
    }
    if (!place) {
      setProblem({
        field: "place",
        text: "Say where it stands: the sun follows from it. The nearest town will do.",
      });
      return;
    }
    const { name: town, ...where } = place;
    try {
      const made = await api.createProject(name, { ...where, place: town, north_deg: 0 });
      navigate(`/p/${made.slug}`);
    } catch (error) {
      setProblem({ field: "name", text: error instanceof Refusal ? error.message : String(error) });
    }
  };
  return (
    <Form onSubmit={(e) => void create(e)} className="sheet" noValidate aria-label="New project">
      <h2 style={{ fontSize: 18 }}>New project</h2>
      <Form.Group controlId="new-project" className="my-2">
        <Form.Label className="mb-1">Name of a new project</Form.Label>
        <Form.Control
          value={name}
          maxLength={80}
          autoComplete="off"
          isInvalid={problem?.field === "name"}
          onChange={(e) => {
            setName(e.target.value);
            setProblem(null);
          }}
        />
      </Form.Group>
      <PlaceFinder
        label="Where it stands"
        value={place?.name ?? ""}
        choose={(found) => {
          setPlace(found);
          setProblem(null);
        }}
      />
      {place && (
        <p className="quiet number mt-1 mb-0">
          {coordinates(place)}, {place.time_zone}
        </p>
      )}
      {problem && (
        <p role="alert" className="error-text mt-2 mb-0">
          {problem.text}
        </p>
      )}
      <Button type="submit" variant="dark" className="mt-3">
        Begin
      </Button>
    </Form>
  );
}
