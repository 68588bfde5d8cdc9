/** The views of one screen, by mouse and by arrow keys. */
import { must } from "./must";

export function Tabs<View extends string>({
  label,
  views,
  view,
  go,
}: {
  label: string;
  views: readonly (readonly [View, string])[];
  view: View;
  go: (to: View) => void;
}) {
  const turned = (by: number) =>
    must(views[(views.findIndex(([key]) => key === view) + by + views.length) % views.length])[0];
  return (
    <div role="tablist" aria-label={label} className="views noprint">
      {views.map(([key, name]) => (
        <button
          key={key}
          role="tab"
          aria-selected={key === view}
          tabIndex={key === view ? 0 : -1}
          onClick={() => go(key)}
          onKeyDown={(event) => {
            const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
            if (!by) return;
            go(turned(by));
            const tabs = [...must(event.currentTarget.parentElement).children] as HTMLElement[];
            must(tabs[(tabs.indexOf(event.currentTarget) + by + tabs.length) % tabs.length]).focus();
          }}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
