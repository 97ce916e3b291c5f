import "@fontsource-variable/instrument-sans";
import "@fontsource-variable/newsreader";
import "@fontsource-variable/red-hat-mono";
import "bootstrap/dist/css/bootstrap.min.css";
import "./ui/tokens.css";
import "./ui/bootstrap.css";
import "./ui/theme.css";

import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";

import { ArrivalSheets } from "./arrival/ArrivalSheet";
import { BenchPage } from "./bench/BenchPage";
import { beginWhereAsked } from "./bench/firstSteps";
import { CataloguePage } from "./catalogue/CataloguePage";
import { Notices } from "./ui/Notices";
import { Missing } from "./ui/Missing";
import { Projects } from "./wall/Projects";
import { SequencePage } from "./sequence/SequencePage";
import { WallPage } from "./wall/WallPage";

beginWhereAsked();

const router = createBrowserRouter([
  { path: "/", element: <Projects goStraight /> },
  { path: "/projects", element: <Projects /> },
  { path: "/p/:slug", element: <WallPage /> },
  { path: "/p/:slug/bench/:view?/:occasion?", element: <BenchPage /> },
  { path: "/p/:slug/sequences/:key?", element: <SequencePage /> },
  { path: "/p/:slug/catalogue", element: <CataloguePage /> },
  { path: "*", element: <Missing what="There is no page here." /> },
]);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <RouterProvider router={router} />
    <ArrivalSheets />
    <Notices />
  </StrictMode>,
);
