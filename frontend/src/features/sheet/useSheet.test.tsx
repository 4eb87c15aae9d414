// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { Sheet } from "./useSheet";

const KEPT: Sheet = {
  id: "1",
  name: "Harbour",
  kind: "draft",
  due_on: null,
  titles: [],
  teacher_name: "Ida",
  changed_at: "2026-11-27T10:00:00Z",
  sent_at: null,
  items: [],
};
const saves: { name: string; seen: string }[] = [];
let status = 200;

beforeEach(() => {
  saves.length = 0;
  status = 200;
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.method === "GET") return Response.json(KEPT);
    const body = (await request.json()) as { name: string; seen: string };
    saves.push(body);
    if (status !== 200) return Response.json({ error: "Somebody else has written." }, { status });
    return Response.json({ ...KEPT, name: body.name, changed_at: `2026-11-27T10:00:0${saves.length}Z` });
  });
  vi.resetModules();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

async function opened() {
  vi.stubGlobal(
    "Request",
    class extends Request {
      constructor(input: RequestInfo | URL, init?: RequestInit) {
        super(typeof input === "string" ? new URL(input, "http://house.example") : input, init);
      }
    },
  );
  const { useSheet } = await import("./useSheet");
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const hook = renderHook(() => useSheet("1"), { wrapper });
  await waitFor(() => expect(hook.result.current.sheet?.name).toBe("Harbour"));
  return hook.result;
}

it("a change is shown at once and kept a little later, each save after the one before", async () => {
  const own = await opened();
  act(() => own.current.change({ name: "Ice" }));
  expect(own.current.sheet?.name).toBe("Ice");
  expect(own.current.unsaved).toBe(true);
  await waitFor(() => expect(own.current.unsaved).toBe(false), { timeout: 3000 });
  act(() => own.current.change({ name: "Ice days" }));
  await waitFor(() => expect(saves).toHaveLength(2), { timeout: 3000 });
  expect(saves.map((save) => save.seen)).toEqual(["2026-11-27T10:00:00Z", "2026-11-27T10:00:01Z"]);
});

it("what is refused is told, stays as it was typed, and is not sent again by itself", async () => {
  const own = await opened();
  status = 409;
  act(() => own.current.change({ name: "Mine" }));
  await waitFor(() => expect(own.current.error?.message).toBe("Somebody else has written."), { timeout: 3000 });
  await new Promise((resolve) => setTimeout(resolve, 1300));
  expect(saves).toHaveLength(1);
  expect(own.current.sheet?.name).toBe("Mine");
  status = 200;
  act(() => own.current.change({ name: "Mine after all" }));
  await waitFor(() => expect(own.current.unsaved).toBe(false), { timeout: 3000 });
  expect(own.current.error).toBeNull();
});
