import type {
  BreakdownAnswer,
  ClickedEmail,
  EffectAnswer,
  Figure,
  FigureAnswer,
  HoursAnswer,
  LinkNumbers,
  MoneyAnswer,
  MoneyRules,
  NumbersAnswer,
  ReadOnAnswer,
  TestsAnswer,
} from '@ascenso/contracts';
import { api } from '../app/api.ts';
import { inAddress, type Period } from './periods.ts';

export const {
  useNumbersQuery,
  useFigureQuery,
  useEffectOfQuery,
  useTestsQuery,
  useHoursQuery,
  useReadOnQuery,
  useBreakdownQuery,
  useLinksOfStepQuery,
  useClickedEmailQuery,
  useMoneyQuery,
  useSetMoneyMutation,
} = api.enhanceEndpoints({ addTagTypes: ['money'] }).injectEndpoints({
  endpoints: (b) => ({
    numbers: b.query<NumbersAnswer, { id: string; period?: Period | null }>({
      query: ({ id, period }) => `/sequences/${id}/numbers${inAddress(period ?? null)}`,
      providesTags: ['numbers'],
    }),
    figure: b.query<FigureAnswer, Figure>({
      query: (figure) => `/figures?${new URLSearchParams({ figure: JSON.stringify(figure) }).toString()}`,
      providesTags: ['numbers', 'people'],
    }),
    effectOf: b.query<EffectAnswer, string>({ query: (id) => `/sequences/${id}/effect`, providesTags: ['numbers'] }),
    breakdown: b.query<BreakdownAnswer, string>({
      query: (id) => `/sequences/${id}/breakdown`,
      providesTags: ['numbers'],
    }),
    hours: b.query<HoursAnswer, { id: string; period: Period | null }>({
      query: ({ id, period }) => `/sequences/${id}/hours${inAddress(period)}`,
      providesTags: ['numbers'],
    }),
    readOn: b.query<ReadOnAnswer, { id: string; period: Period | null }>({
      query: ({ id, period }) => `/sequences/${id}/read-on${inAddress(period)}`,
      providesTags: ['numbers'],
    }),
    tests: b.query<TestsAnswer, string>({ query: (id) => `/sequences/${id}/tests`, providesTags: ['numbers'] }),
    linksOfStep: b.query<{ links: LinkNumbers[] }, { id: string; step: string; period: Period | null }>({
      query: ({ id, step, period }) => `/sequences/${id}/steps/${step}/links${inAddress(period)}`,
      providesTags: ['numbers'],
    }),
    clickedEmail: b.query<{ email: ClickedEmail }, { id: string; step: string }>({
      query: ({ id, step }) => `/sequences/${id}/steps/${step}/clicked`,
      providesTags: ['numbers'],
    }),
    money: b.query<MoneyAnswer, void>({ query: () => '/money', providesTags: ['money'] }),
    setMoney: b.mutation<object, MoneyRules>({
      query: (body) => ({ url: '/money', method: 'PUT', body }),
      invalidatesTags: ['money', 'numbers', 'sequences'],
    }),
  }),
});
