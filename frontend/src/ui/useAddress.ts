import { useSearchParams } from "react-router";

/** What is chosen on a page stands in its address, so that going back finds it again. Another choice begins at the first page. */
export function useAddress() {
  const [params, setParams] = useSearchParams();
  const put = (key: string, value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value) next.set(key, value);
        else next.delete(key);
        if (key !== "page") next.delete("page");
        return next;
      },
      { replace: true },
    );
  const clear = () => setParams({}, { replace: true });
  return { params, put, clear };
}
