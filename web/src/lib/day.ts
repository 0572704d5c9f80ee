const FIRST_DAY = "1970-01-01";
const LAST_DAY = "2199-12-31";

/** Whether a text is a day that anything here may be dated by. */
export const isDay = (day: string): boolean =>
  /^\d{4}-\d\d-\d\d$/.test(day) && day >= FIRST_DAY && day <= LAST_DAY && !isNaN(Date.parse(day));
