import { here } from "../bench/here";

interface Props {
  what: string;
  /** Of the table, without its suffix, and what is asked of it. */
  address: string;
  query?: string;
}

/** A table that leaves the bench, as CSV or as a workbook. */
export const Leaves = ({ what, address, query = "" }: Props) => (
  <span className="leaves">
    <a className="link" href={here(`${address}.csv${query}`)} download>
      {what} CSV
    </a>{" "}
    <a className="link" href={here(`${address}.xlsx${query}`)} download aria-label={`${what} XLSX`}>
      XLSX
    </a>
  </span>
);
