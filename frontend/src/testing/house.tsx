import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactElement, ReactNode } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";

export interface Asked {
  method: string;
  path: string;
  query: URLSearchParams;
  body: unknown;
}

/** What a route answers with: a document, or a whole Response. */
type Answers = (asked: Asked) => unknown;

let routes: Record<string, Answers> = {};
let asked: Asked[] = [];

/** A house of answers in the place of the server: "POST /api/marks" -> what it says. Gives what is asked of it, in order. */
export function houseOf(own: Record<string, Answers>): Asked[] {
  routes = own;
  asked = [];
  return asked;
}

// The client takes both when it is first read: this file is imported before whatever reads it. Node's own wants whole addresses.
globalThis.Request = class extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://house.example") : input, init);
  }
};
globalThis.fetch = async (input) => {
  const request = input as Request;
  const { pathname, searchParams } = new URL(request.url);
  const text = await request.text();
  const body: unknown = text ? JSON.parse(text) : null;
  const own = { method: request.method, path: pathname, query: searchParams, body };
  asked.push(own);
  const found = routes[`${own.method} ${own.path}`];
  if (!found) return refused("There is nothing here.", 404);
  const said = await found(own);
  return said instanceof Response ? said : Response.json(said);
};

export const refused = (error: string, status = 422): Response => Response.json({ error }, { status });

/** What a part of the page stands in: the known answers, and an address. */
export function Around({ children, at = "/", queries }: { children: ReactNode; at?: string; queries?: QueryClient }) {
  const own = queries ?? new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return (
    <QueryClientProvider client={own}>
      <MemoryRouter initialEntries={[at]}>
        <Routes>
          <Route path="*" element={children} />
        </Routes>
        <Address />
      </MemoryRouter>
    </QueryClientProvider>
  );
}

function Address() {
  const { pathname, search } = useLocation();
  return <span data-testid="address">{pathname + search}</span>;
}

export function shown(part: ReactElement, more: { at?: string; queries?: QueryClient } = {}) {
  return render(<Around {...more}>{part}</Around>);
}
