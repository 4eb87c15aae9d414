import { configure } from "@testing-library/dom";

// What is waited for comes late on a busy machine; the second that is usual is for a quiet one.
configure({ asyncUtilTimeout: 20_000 });
