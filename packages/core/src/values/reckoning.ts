/** How a dataset counts weeks, years and seasons. */
export interface Calendar {
  /** 1 is Monday, 7 is Sunday. */
  readonly firstDayOfWeek: number;
  /** 1 is January. */
  readonly firstMonthOfYear: number;
  /** A season lasts from the beginning of one month until the end of another; it may cross the end of the year. */
  readonly firstMonthOfSeason: number;
  readonly lastMonthOfSeason: number;
}

export const COMMON_CALENDAR: Calendar = { firstDayOfWeek: 1, firstMonthOfYear: 1, firstMonthOfSeason: 4, lastMonthOfSeason: 9 };
