import { CloseButton } from "react-bootstrap";

import { useStore } from "../state/store";
import { Button } from "./Button";
import { classesOf } from "./classes";
import styles from "./Notices.module.css";

const cls = classesOf(styles);

/** What went wrong and what was kept; errors stay until dismissed. */
export function Notices() {
  const notices = useStore((s) => s.notices);
  const dismiss = useStore((s) => s.dismiss);
  const offline = useStore((s) => s.offline);
  return (
    <section className={cls("notices")} aria-label="Notices" aria-live="polite">
      {offline && (
        <p className={cls("offline")}>
          The server does not answer. What you saved is kept; edits are sent as soon as it is back.
        </p>
      )}
      {notices.map((notice) => (
        <div
          key={notice.id}
          className="toast show w-100"
          role={notice.tone === "error" ? "alert" : undefined}
        >
          <div className="toast-header">
            <strong className={`me-auto ${notice.tone === "error" ? "error-text" : ""}`}>
              {notice.tone === "error" ? "Not done" : "Note"}
            </strong>
            <CloseButton aria-label="Put away" onClick={() => dismiss(notice.id)} />
          </div>
          <div className="toast-body">
            {notice.text}
            {notice.choices && (
              <div className="row-actions mt-2">
                {notice.choices.map((choice) => (
                  <Button
                    key={choice.label}
                    size="sm"
                    variant="outline-dark"
                    onClick={() => {
                      dismiss(notice.id);
                      choice.act();
                    }}
                  >
                    {choice.label}
                  </Button>
                ))}
              </div>
            )}
          </div>
        </div>
      ))}
    </section>
  );
}
