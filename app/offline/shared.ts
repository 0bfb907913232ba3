/** Where the system sends files that another application shares; the service worker takes them. */
export const SHARED_ADDRESS = "/shared";
/** Under which they wait for the page. */
const WAITING = "shared files";
const NAME_HEADER = "X-File-Name";

/** Keeps files that were shared until the page takes them. @returns leads to the shelf */
export async function keepShared(request: Request): Promise<Response> {
  const waiting = await caches.open(WAITING);
  const form = await request.formData();
  for (const [i, file] of form.getAll("files").entries()) {
    if (!(file instanceof File)) continue;
    const headers = {
      "Content-Type": file.type || "application/octet-stream",
      [NAME_HEADER]: encodeURIComponent(file.name),
    };
    await waiting.put(`/${Date.now()}-${i}`, new Response(file, { headers }));
  }
  return Response.redirect("/shoots", 303);
}

/** Takes the files that were shared; each is taken once. */
export async function takeShared(): Promise<File[]> {
  if (!("caches" in globalThis) || !(await caches.has(WAITING))) return [];
  const waiting = await caches.open(WAITING);
  const files: File[] = [];
  for (const request of await waiting.keys()) {
    const response = await waiting.match(request);
    if (!response) continue;
    const blob = await response.blob();
    const name = decodeURIComponent(response.headers.get(NAME_HEADER) ?? "file");
    files.push(new File([blob], name, { type: blob.type }));
    await waiting.delete(request);
  }
  return files;
}
