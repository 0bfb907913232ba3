import { redirect } from "react-router";

export function clientLoader() {
  return redirect("/shoots");
}
export default function Home() {
  return null;
}
