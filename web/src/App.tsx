import { useQuery } from "@tanstack/react-query";
import { Navigate, Route, Routes } from "react-router";
import { get } from "./api/client";
import type { Me } from "./api/types";
import { DrawingPage } from "./drawing/DrawingPage";
import { InspectionPage } from "./inspect/InspectionPage";
import { Library } from "./library/Library";
import { SignIn } from "./library/SignIn";
import { ReleasePage } from "./release/ReleasePage";
import { BoardPage } from "./shell/BoardPage";

export function App() {
  const me = useQuery({ queryKey: ["me"], queryFn: () => get<Me>("/api/me") });
  if (me.isPending) return <p className="p-8 text-pencil">Opening the drawing office …</p>;
  // only when nothing was ever heard: an answer that fails to come later takes nobody's work off the screen
  if (me.isLoadingError)
    return (
      <p className="p-8">
        The server does not answer. Check that Sulvak is running, then load this page again.
      </p>
    );
  if (!me.data?.name) return <SignIn me={me.data} />;
  return (
    <Routes>
      <Route path="/" element={<Library me={me.data} />} />
      <Route path="/parts/:id" element={<BoardPage />} />
      <Route path="/parts/:id/inspection" element={<InspectionPage />} />
      <Route path="/parts/:id/drawing" element={<DrawingPage />} />
      <Route path="/parts/:id/release" element={<ReleasePage />} />
      <Route path="*" element={<Navigate to="/" replace />} />
    </Routes>
  );
}
