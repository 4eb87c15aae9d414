import { lazy, Suspense } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { SignIn } from "../features/signin/SignIn";
import { ErrorBoundary } from "../ui/ErrorBoundary";
import { Loading, Trouble } from "../ui/states";
import { useSession } from "./session";
import { PupilRoom, TeacherRoom } from "./rooms";

const Week = lazy(() => import("../features/week/Week").then((m) => ({ default: m.Week })));
const TakeListPage = lazy(() =>
  import("../features/listening/TakeListPage").then((m) => ({ default: m.TakeListPage })),
);
const TakePage = lazy(() => import("../features/listening/TakePage").then((m) => ({ default: m.TakePage })));
const Workshop = lazy(() => import("../features/workshop/Workshop").then((m) => ({ default: m.Workshop })));
const People = lazy(() => import("../features/people/People").then((m) => ({ default: m.People })));
const Studio = lazy(() => import("../features/studio/Studio").then((m) => ({ default: m.Studio })));
const Today = lazy(() => import("../features/today/Today").then((m) => ({ default: m.Today })));
const Practice = lazy(() => import("../features/practice/Practice").then((m) => ({ default: m.Practice })));
const ResultPage = lazy(() => import("../features/practice/see/ResultPage").then((m) => ({ default: m.ResultPage })));

const ClassPage = lazy(() => import("../features/class/ClassPage").then((m) => ({ default: m.ClassPage })));
const PupilPage = lazy(() => import("../features/people/PupilPage").then((m) => ({ default: m.PupilPage })));
const SheetsPage = lazy(() => import("../features/sheet/SheetsPage").then((m) => ({ default: m.SheetsPage })));
const SheetPage = lazy(() => import("../features/sheet/SheetPage").then((m) => ({ default: m.SheetPage })));
const CalendarPage = lazy(() => import("../features/calendar/CalendarPage").then((m) => ({ default: m.CalendarPage })));
const OutboxPage = lazy(() => import("../features/calendar/OutboxPage").then((m) => ({ default: m.OutboxPage })));
const LessonPage = lazy(() => import("../features/lesson/LessonPage").then((m) => ({ default: m.LessonPage })));
const Join = lazy(() => import("../features/signin/Join").then((m) => ({ default: m.Join })));

const RecordPage = lazy(() => import("../features/record/RecordPage").then((m) => ({ default: m.RecordPage })));
const HomePage = lazy(() => import("../features/home/HomePage").then((m) => ({ default: m.HomePage })));

export function App() {
  const session = useSession();
  if (session.isPending) return <Loading what="Opening the door" />;
  if (session.isError) return <Trouble error={session.error} again={() => void session.refetch()} />;
  const person = session.data;
  return (
    <BrowserRouter>
      <ErrorBoundary>
        <Suspense fallback={<Loading what="Opening" />}>
          {person === null ? (
            <Routes>
              <Route path="/join/:token" element={<Join />} />
              <Route path="*" element={<SignIn />} />
            </Routes>
          ) : person.role === "teacher" ? (
            <Routes>
              <Route element={<TeacherRoom person={person} />}>
                <Route path="/week" element={<Week />} />
                <Route path="/listening" element={<TakeListPage />} />
                <Route path="/listening/:id" element={<TakePage />} />
                <Route path="/workshop" element={<Workshop />} />
                <Route path="/class" element={<ClassPage />} />
                <Route path="/sheets" element={<SheetsPage />} />
                <Route path="/sheets/:id" element={<SheetPage />} />
                <Route path="/lesson" element={<LessonPage person={person} />} />
                <Route path="/calendar" element={<CalendarPage />} />
                <Route path="/outbox" element={<OutboxPage />} />
                <Route path="/people" element={<People />} />
                <Route path="/people/:id" element={<PupilPage />} />
                <Route path="/studio" element={<Studio />} />
                <Route path="*" element={<Navigate to="/week" replace />} />
              </Route>
            </Routes>
          ) : (
            <Routes>
              <Route element={<PupilRoom person={person} />}>
                <Route path="/today" element={<Today person={person} />} />
                <Route path="/practice/:id" element={<Practice person={person} />} />
                <Route path="/record" element={<RecordPage />} />
                <Route path="/home" element={<HomePage />} />
                <Route path="/takes/:id" element={<ResultPage person={person} />} />
                <Route path="*" element={<Navigate to="/today" replace />} />
              </Route>
            </Routes>
          )}
        </Suspense>
      </ErrorBoundary>
    </BrowserRouter>
  );
}
