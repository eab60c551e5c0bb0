/** What is suggested beside what is written: who has written it in full needs no list, which would lie over what comes next. */
export function besides(written: string, all: string[]) {
  const whole = written.trim().toLowerCase();
  return all.filter((one) => one.toLowerCase() !== whole);
}
