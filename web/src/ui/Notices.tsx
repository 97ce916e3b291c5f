import { Toast } from "react-bootstrap";

import { useStore } from "../state/store";

/** What went wrong and what was kept; errors stay until dismissed. */
export function Notices() {
  const notices = useStore((s) => s.notices);
  const dismiss = useStore((s) => s.dismiss);
  return (
    <div className="notices" aria-live="polite">
      {notices.map((notice) => (
        <Toast key={notice.id} onClose={() => dismiss(notice.id)} className="w-100">
          <Toast.Header>
            <strong className={`me-auto ${notice.tone === "error" ? "error-text" : ""}`}>
              {notice.tone === "error" ? "Not done" : "Done"}
            </strong>
          </Toast.Header>
          <Toast.Body role={notice.tone === "error" ? "alert" : undefined}>{notice.text}</Toast.Body>
        </Toast>
      ))}
    </div>
  );
}
