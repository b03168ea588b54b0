/** How a dataset counts weeks, years and seasons. */
export interface Calendar {
  /** 1 is Monday, 7 is Sunday. */
  readonly firstDayOfWeek: number;
  /** 1 is January. */
  readonly firstMonthOfYear: number;
  /** A season lasts from the beginning of one month until the end of another; it may cross the end of the year. */
  readonly firstMonthOfSeason: number;
  readonly lastMonthOfSeason: number;
  /** The zone whose clocks instants are read by, as the IANA database names it; left out: UTC. */
  readonly zone?: string;
}

export const COMMON_CALENDAR: Calendar = { firstDayOfWeek: 1, firstMonthOfYear: 1, firstMonthOfSeason: 4, lastMonthOfSeason: 9 };
