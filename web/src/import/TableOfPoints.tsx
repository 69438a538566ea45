/** The first rows of a list of points, with what each column holds above it: what is not recognised can be said. */
import type { DrawingRead } from "../api/client";
import { Choice, Pick } from "../ui/choices";
import { LengthField, Setting } from "../ui/fields";
import { count } from "../ui/figures";
import type { ReadOptions } from "./reading";

type Table = NonNullable<DrawingRead["table"]>;
type Column = Table["columns"][number];

const columns: [Column, string][] = [
  ["number", "number"],
  ["east", "east"],
  ["north", "north"],
  ["height", "height"],
  ["code", "code"],
  ["leave", "leave out"],
];
const delimiters: [Table["delimiter"], string][] = [
  [",", "commas"],
  [";", "semicolons"],
  ["tab", "tabs"],
  ["space", "spaces"],
  ["|", "vertical bars"],
];
type Encoding = NonNullable<ReadOptions["encoding"]>;
const encodings: [Encoding, string][] = [
  ["utf-8", "UTF-8"],
  ["utf-16", "UTF-16"],
  ["cp1252", "Windows, western"],
  ["cp1250", "Windows, central"],
  ["cp1257", "Windows, Baltic"],
  ["cp1254", "Windows, Turkish"],
  ["iso8859_15", "ISO, western"],
  ["iso8859_2", "ISO, central"],
  ["cp850", "DOS, western"],
  ["cp852", "DOS, central"],
  ["mac_roman", "old Mac"],
];

export function TableOfPoints({
  table,
  question,
  options,
  read,
}: {
  table: Table;
  question: string | null;
  options: ReadOptions;
  read: (options: ReadOptions) => void;
}) {
  const say = (index: number, column: Column) =>
    // A column that is said to be east takes that from the one that was.
    read({
      ...options,
      columns: table.columns.map((old, at) =>
        at === index ? column : old === column && column !== "leave" && column !== "code" ? "leave" : old,
      ),
    });
  const right = (column: Column | undefined) => column === "east" || column === "north" || column === "height";
  return (
    <section aria-label="The list" className="max-h-[62%] shrink-0 overflow-y-auto border-rule border-b bg-bench">
      {question && (
        <p role="status" className="border-wax border-b bg-wax-wash px-4 py-1.5 text-sm">
          <b className="text-wax-deep">?</b> {question}
        </p>
      )}
      <div className="overflow-x-auto px-4 pt-2">
        <table className="text-sm">
          <thead>
            <tr>
              {table.columns.map((column, index) => (
                <th
                  key={index}
                  scope="col"
                  className={`px-1 pb-1 font-normal ${right(column) ? "text-right" : "text-left"}`}
                >
                  <Pick<Column>
                    label={`Column ${index + 1}${table.names[index] ? `, ${table.names[index]}` : ""}`}
                    value={column}
                    ways={columns}
                    choose={(one) => say(index, one)}
                  />
                </th>
              ))}
            </tr>
            {table.header && (
              <tr className="border-ink border-b text-pencil">
                {table.columns.map((column, index) => (
                  <td key={index} className={`px-2 py-0.5 ${right(column) ? "text-right" : ""}`}>
                    {table.names[index]}
                  </td>
                ))}
              </tr>
            )}
          </thead>
          <tbody>
            {table.rows.map((row, at) => (
              <tr key={at} className="border-rule border-b">
                {table.columns.map((column, index) => (
                  <td
                    key={index}
                    className={`max-w-52 truncate whitespace-nowrap px-2 py-0.5 ${right(column) ? "figure text-right" : ""} ${column === "leave" ? "text-pencil" : ""}`}
                  >
                    {index === table.columns.length - 1 ? row.slice(index).join(" ") : row[index]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="flex flex-wrap items-center gap-x-5 px-4 pt-1 pb-2">
        <span className="mb-1 text-pencil text-sm">
          {table.count > table.rows.length
            ? `The first ${table.rows.length} of ${count(table.count, "row")}`
            : count(table.count, "row")}
        </span>
        <Setting label="Set apart by">
          <Pick
            label="Column delimiter"
            value={table.delimiter}
            ways={delimiters}
            choose={(delimiter) => read({ ...options, delimiter, columns: null })}
          />
        </Setting>
        <Setting label="Decimals after">
          <Choice
            label="Decimal mark"
            value={table.decimal}
            ways={[
              [".", "a point"],
              [",", "a comma"],
            ]}
            choose={(decimal) => read({ ...options, decimal })}
          />
        </Setting>
        <Setting label="Above the rows">
          <Choice
            label="Header"
            value={table.header ? "names" : "none"}
            ways={[
              ["names", "their names"],
              ["none", "nothing"],
            ]}
            choose={(header) => read({ ...options, header: header === "names", columns: null })}
          />
        </Setting>
        <Setting label="Letters">
          <Pick<Encoding>
            label="Encoding"
            value={(encodings.find(([name]) => name === table.encoding)?.[0] ?? null) as Encoding | null}
            various={table.encoding}
            ways={encodings}
            choose={(encoding) => read({ ...options, encoding })}
          />
        </Setting>
        {table.without_height > 0 && (
          <Setting label={`${count(table.without_height, "point")} without a height`}>
            <Choice
              label="Points without a height"
              value={options.no_height ?? "along"}
              ways={[
                ["along", "from neighbours"],
                ["out", "left out"],
                ["level", "at a level"],
              ]}
              choose={(no_height) => read({ ...options, no_height })}
            />
          </Setting>
        )}
        {table.without_height > 0 && options.no_height === "level" && (
          <LengthField
            label="Level"
            mm={options.no_height_level ?? 0}
            take={async (no_height_level) => {
              read({ ...options, no_height_level });
              return null;
            }}
          />
        )}
      </div>
    </section>
  );
}
