import { useEffect, useRef, useState, type ReactNode } from 'react';

/** What lies this near to what is seen is there already, pixels. */
const NEAR = 1600;
/** About as high as a card is that was not drawn yet. */
const USUAL_HEIGHT = 480;

/** An item of a long list whose content is there only near what is seen of it; elsewhere its place is kept. */
export function NearView({
  label,
  className,
  isFirst,
  children,
}: {
  label: string;
  className: string;
  /** It is seen at once. */
  isFirst: boolean;
  children: ReactNode;
}) {
  const item = useRef<HTMLLIElement>(null);
  const [isNear, setNear] = useState(isFirst);
  const [height, setHeight] = useState(USUAL_HEIGHT);
  useEffect(() => {
    const observed = item.current!;
    const observer = new IntersectionObserver(
      ([entry]) => {
        if (!entry) return;
        if (!entry.isIntersecting && entry.boundingClientRect.height > 0) setHeight(entry.boundingClientRect.height);
        setNear(entry.isIntersecting);
      },
      { root: observed.closest('main'), rootMargin: `${NEAR}px 0px` },
    );
    observer.observe(observed);
    return () => observer.disconnect();
  }, []);
  return (
    <li ref={item} className={className} aria-label={label} style={isNear ? {} : { height }}>
      {isNear && children}
    </li>
  );
}
