/** Real servers and databases take their time on two cores. */
jest.setTimeout(90_000);
