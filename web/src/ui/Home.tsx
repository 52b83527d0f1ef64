/** The way back to the library, at the head of every page of a part. */
import { Link } from "react-router";

export function Home() {
  return (
    <Link
      to="/"
      className="text-[15px] font-semibold tracking-[0.18em]"
      aria-label="Sulvak: back to the library"
    >
      SULVAK
    </Link>
  );
}
