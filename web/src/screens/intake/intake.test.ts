import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { serve } from "@/tests/mounting";

import { filesOfDrop, filesOfInput } from "./folders";
import { takeIn } from "./uploading";

const file = (name: string, path = "") =>
  Object.defineProperty(new File(["x".repeat(10)], name), "webkitRelativePath", { value: path });

function folderEntry(name: string, children: unknown[], batch = 100) {
  const left = [...children];
  return {
    name,
    isFile: false,
    isDirectory: true,
    createReader: () => ({ readEntries: (done: (some: unknown[]) => void) => done(left.splice(0, batch)) }),
  };
}
const fileEntry = (name: string) => ({
  name,
  isFile: true,
  isDirectory: false,
  file: (done: (one: File) => void) => done(file(name)),
});
const drop = (entries: unknown[], files: File[] = []) =>
  ({ items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })), files }) as unknown as DataTransfer;

describe("what was dropped", () => {
  it("is every file of a folder, however many, without what is hidden", async () => {
    const many = Array.from({ length: 250 }, (_, index) => fileEntry(`${index}.png`));
    const inner = folderEntry("deck", [...many, fileEntry(".DS_Store")]);
    const { name, files } = await filesOfDrop(drop([folderEntry("untidy", [inner, fileEntry("IMG.jpg")])]));
    expect(name).toBe("untidy");
    expect(files).toHaveLength(251);
    expect(files[0]!.path).toBe("deck/0.png");
    expect(files.at(-1)!.path).toBe("IMG.jpg");
  });

  it("keeps the folders' names when several are dropped, and takes loose files", async () => {
    const two = await filesOfDrop(
      drop([folderEntry("a", [fileEntry("x.png")]), folderEntry("b", [fileEntry("x.png")])]),
    );
    expect(two.files.map((one) => one.path)).toEqual(["a/x.png", "b/x.png"]);
    const loose = await filesOfDrop(drop([null], [file("y.png")]));
    expect(loose.files.map((one) => one.path)).toEqual(["y.png"]);
  });
});

describe("what was chosen", () => {
  it("starts inside the chosen folder", () => {
    const list = [file("x.png", "untidy/deck/x.png"), file(".h", "untidy/.h")] as unknown as FileList;
    expect(filesOfInput(list)).toMatchObject({ name: "untidy", files: [{ path: "deck/x.png" }] });
    expect(filesOfInput([file("a.zip")])).toMatchObject({
      name: "a.zip",
      files: [{ path: "a.zip" }],
    });
  });
});

describe("taking in", () => {
  let sent: { url: string; path: string }[];
  let atOnce = 0;
  let most = 0;

  class FakeRequest {
    upload: { onprogress?: (event: unknown) => void } = {};
    status = 200;
    responseText = "{}";
    onload = () => {};
    onabort = () => {};
    private url = "";
    open(_method: string, url: string) {
      this.url = url;
    }
    setRequestHeader() {}
    abort() {
      this.onabort();
    }
    send(form: FormData) {
      const path = form.get("path") as string;
      sent.push({ url: this.url, path });
      most = Math.max(most, ++atOnce);
      setTimeout(() => {
        atOnce--;
        if (path.startsWith("bad"))
          [this.status, this.responseText] = [422, '{"detail":"points outside its folder"}'];
        this.onload();
      }, 2);
    }
  }

  beforeEach(() => {
    [sent, atOnce, most] = [[], 0, 0];
    vi.stubGlobal("XMLHttpRequest", FakeRequest);
  });
  afterEach(() => vi.unstubAllGlobals());
  const answers = {
    "POST /api/projects/f/intakes": { id: 5 },
    "POST /api/projects/f/intakes/5/sort": {},
    "DELETE /api/projects/f/intakes/5": {},
  };
  const dropped = (paths: string[]) => paths.map((path) => ({ path, file: file(path) }));

  it("sends three at a time, zips to their own place, then sorts", async () => {
    const calls = serve(answers);
    const paths = [...Array.from({ length: 8 }, (_, index) => `${index}.png`), "more.zip"];
    const { batch, done } = takeIn("f", "folder", dropped(paths), new AbortController().signal);
    await done;
    expect(most).toBe(3);
    expect(sent.find((one) => one.path === "more.zip")!.url).toMatch(/\/zip$/);
    expect(batch.uploads.every((one) => one.state === "taken" && one.sent === one.bytes)).toBe(true);
    expect(batch.state).toBe("sorting");
    expect(calls.map((call) => `${call.method} ${call.path}`).at(-1)).toBe(
      "POST /api/projects/f/intakes/5/sort",
    );
  });

  it("keeps going when one is refused, and gives up when all are", async () => {
    serve(answers);
    const mixed = takeIn("f", "x", dropped(["bad.png", "good.png"]), new AbortController().signal);
    await mixed.done;
    expect(mixed.batch.uploads.map((one) => one.state)).toEqual(["refused", "taken"]);
    expect(mixed.batch.uploads[0]!.message).toContain("points outside");
    expect(mixed.batch.state).toBe("sorting");
    const calls = serve(answers);
    const none = takeIn("f", "x", dropped(["bad.png"]), new AbortController().signal);
    await none.done;
    expect(none.batch.state).toBe("failed");
    expect(none.batch.message).toContain("nothing to sort");
    expect(calls.at(-1)!.method).toBe("DELETE");
  });

  it("gives the intake up when stopped", async () => {
    const calls = serve(answers);
    const stopper = new AbortController();
    const { batch, done } = takeIn(
      "f",
      "x",
      dropped(Array.from({ length: 20 }, (_, at) => `${at}.png`)),
      stopper.signal,
    );
    setTimeout(() => stopper.abort(), 5);
    await done;
    expect(batch.state).toBe("stopped");
    expect(sent.length).toBeLessThan(20);
    expect(calls.at(-1)!.method).toBe("DELETE");
    expect(batch.uploads.some((one) => one.state === "waiting" || one.state === "sending")).toBe(false);
  });
});
