/** Real servers and databases take their time on two cores, and much longer where those are shared with others. */
jest.setTimeout(240_000);
