import { baseApi as api } from './base';
export const addTagTypes = [
  'audit',
  'people',
  'sources',
  'datasets',
  'kept texts',
  'links',
  'kept-routines',
  'runs',
  'results',
  'answers',
  'proof',
  'scripts',
  'exports',
  'health',
] as const;
const injectedRtkApi = api
  .enhanceEndpoints({
    addTagTypes,
  })
  .injectEndpoints({
    endpoints: (build) => ({
      auditList: build.query<AuditListApiResponse, AuditListApiArg>({
        query: () => ({ url: `/api/audit` }),
        providesTags: ['audit'],
      }),
      peopleSignIn: build.mutation<PeopleSignInApiResponse, PeopleSignInApiArg>({
        query: (queryArg) => ({ url: `/api/sign-in`, method: 'POST', body: queryArg.signInDto }),
        invalidatesTags: ['people'],
      }),
      peopleSignOut: build.mutation<PeopleSignOutApiResponse, PeopleSignOutApiArg>({
        query: () => ({ url: `/api/sign-out`, method: 'POST' }),
        invalidatesTags: ['people'],
      }),
      peopleMe: build.query<PeopleMeApiResponse, PeopleMeApiArg>({
        query: () => ({ url: `/api/me` }),
        providesTags: ['people'],
      }),
      peopleDemoSignIns: build.query<PeopleDemoSignInsApiResponse, PeopleDemoSignInsApiArg>({
        query: () => ({ url: `/api/demo-sign-ins` }),
        providesTags: ['people'],
      }),
      peopleList: build.query<PeopleListApiResponse, PeopleListApiArg>({
        query: () => ({ url: `/api/people` }),
        providesTags: ['people'],
      }),
      sourcesList: build.query<SourcesListApiResponse, SourcesListApiArg>({
        query: () => ({ url: `/api/sources` }),
        providesTags: ['sources'],
      }),
      sourcesAdd: build.mutation<SourcesAddApiResponse, SourcesAddApiArg>({
        query: (queryArg) => ({ url: `/api/sources`, method: 'POST', body: queryArg.newSourceDto }),
        invalidatesTags: ['sources'],
      }),
      sourcesOne: build.query<SourcesOneApiResponse, SourcesOneApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}` }),
        providesTags: ['sources'],
      }),
      sourcesChange: build.mutation<SourcesChangeApiResponse, SourcesChangeApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}`, method: 'PATCH', body: queryArg.changedSourceDto }),
        invalidatesTags: ['sources'],
      }),
      sourcesRemove: build.mutation<SourcesRemoveApiResponse, SourcesRemoveApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}`, method: 'DELETE' }),
        invalidatesTags: ['sources'],
      }),
      sourcesTry: build.mutation<SourcesTryApiResponse, SourcesTryApiArg>({
        query: (queryArg) => ({ url: `/api/sources/test`, method: 'POST', body: queryArg.testSourceDto }),
        invalidatesTags: ['sources'],
      }),
      sourcesTest: build.mutation<SourcesTestApiResponse, SourcesTestApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/test`, method: 'POST' }),
        invalidatesTags: ['sources'],
      }),
      sourcesAccess: build.query<SourcesAccessApiResponse, SourcesAccessApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/access` }),
        providesTags: ['sources'],
      }),
      sourcesGive: build.mutation<SourcesGiveApiResponse, SourcesGiveApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/access`, method: 'PUT', body: queryArg.sourceAccessDto }),
        invalidatesTags: ['sources'],
      }),
      sourcesTables: build.query<SourcesTablesApiResponse, SourcesTablesApiArg>({
        query: (queryArg) => ({
          url: `/api/sources/${queryArg.id}/tables`,
          params: {
            search: queryArg.search,
            limit: queryArg.limit,
          },
        }),
        providesTags: ['sources'],
      }),
      sourcesDescribe: build.query<SourcesDescribeApiResponse, SourcesDescribeApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/tables/${queryArg.schema}/${queryArg.table}` }),
        providesTags: ['sources'],
      }),
      sourcesSample: build.query<SourcesSampleApiResponse, SourcesSampleApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/tables/${queryArg.schema}/${queryArg.table}/sample` }),
        providesTags: ['sources'],
      }),
      sourcesCount: build.query<SourcesCountApiResponse, SourcesCountApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/tables/${queryArg.schema}/${queryArg.table}/count` }),
        providesTags: ['sources'],
      }),
      textsDescribe: build.mutation<TextsDescribeApiResponse, TextsDescribeApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/texts/describe`, method: 'POST', body: queryArg.describeTextDto }),
        invalidatesTags: ['sources'],
      }),
      routinesList: build.query<RoutinesListApiResponse, RoutinesListApiArg>({
        query: (queryArg) => ({
          url: `/api/sources/${queryArg.id}/routines`,
          params: {
            search: queryArg.search,
            limit: queryArg.limit,
          },
        }),
        providesTags: ['sources'],
      }),
      routinesText: build.query<RoutinesTextApiResponse, RoutinesTextApiArg>({
        query: (queryArg) => ({
          url: `/api/sources/${queryArg.id}/routines/text`,
          params: {
            signature: queryArg.signature,
          },
        }),
        providesTags: ['sources'],
      }),
      routinesDescribe: build.mutation<RoutinesDescribeApiResponse, RoutinesDescribeApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/routines/describe`, method: 'POST', body: queryArg.routineResultDto }),
        invalidatesTags: ['sources'],
      }),
      routinesTryOut: build.mutation<RoutinesTryOutApiResponse, RoutinesTryOutApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/routines/try`, method: 'POST', body: queryArg.routineTriedDto }),
        invalidatesTags: ['sources'],
      }),
      routinesAdmit: build.mutation<RoutinesAdmitApiResponse, RoutinesAdmitApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/routines/admitted`, method: 'PUT', body: queryArg.admittedDto }),
        invalidatesTags: ['sources'],
      }),
      routinesViewText: build.query<RoutinesViewTextApiResponse, RoutinesViewTextApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/tables/${queryArg.schema}/${queryArg.table}/text` }),
        providesTags: ['sources'],
      }),
      datasetsList: build.query<DatasetsListApiResponse, DatasetsListApiArg>({
        query: () => ({ url: `/api/datasets` }),
        providesTags: ['datasets'],
      }),
      datasetsCreate: build.mutation<DatasetsCreateApiResponse, DatasetsCreateApiArg>({
        query: (queryArg) => ({ url: `/api/datasets`, method: 'POST', body: queryArg.newDatasetDto }),
        invalidatesTags: ['datasets'],
      }),
      datasetsDeleted: build.query<DatasetsDeletedApiResponse, DatasetsDeletedApiArg>({
        query: () => ({ url: `/api/datasets/deleted` }),
        providesTags: ['datasets'],
      }),
      datasetsDuplicate: build.mutation<DatasetsDuplicateApiResponse, DatasetsDuplicateApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}/copies`, method: 'POST' }),
        invalidatesTags: ['datasets'],
      }),
      datasetsDelete: build.mutation<DatasetsDeleteApiResponse, DatasetsDeleteApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}`, method: 'DELETE' }),
        invalidatesTags: ['datasets'],
      }),
      datasetsOne: build.query<DatasetsOneApiResponse, DatasetsOneApiArg>({
        query: (queryArg) => ({
          url: `/api/datasets/${queryArg.id}`,
          params: {
            revision: queryArg.revision,
          },
        }),
        providesTags: ['datasets'],
      }),
      datasetsTakeBack: build.mutation<DatasetsTakeBackApiResponse, DatasetsTakeBackApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}/taking-back`, method: 'POST' }),
        invalidatesTags: ['datasets'],
      }),
      datasetsEdit: build.mutation<DatasetsEditApiResponse, DatasetsEditApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}/edits`, method: 'POST', body: queryArg.editsDto }),
        invalidatesTags: ['datasets'],
      }),
      datasetsHistory: build.query<DatasetsHistoryApiResponse, DatasetsHistoryApiArg>({
        query: (queryArg) => ({
          url: `/api/datasets/${queryArg.id}/revisions`,
          params: {
            before: queryArg.before,
          },
        }),
        providesTags: ['datasets'],
      }),
      datasetsTables: build.query<DatasetsTablesApiResponse, DatasetsTablesApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}/tables` }),
        providesTags: ['datasets'],
      }),
      datasetsRoutines: build.query<DatasetsRoutinesApiResponse, DatasetsRoutinesApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}/routines` }),
        providesTags: ['datasets'],
      }),
      lastValuesAll: build.query<LastValuesAllApiResponse, LastValuesAllApiArg>({
        query: (queryArg) => ({ url: `/api/datasets/${queryArg.id}/last-values` }),
        providesTags: ['datasets'],
      }),
      lastValuesKeep: build.mutation<LastValuesKeepApiResponse, LastValuesKeepApiArg>({
        query: (queryArg) => ({
          url: `/api/datasets/${queryArg.id}/last-values/${queryArg.parameter}`,
          method: 'PUT',
          body: queryArg.lastValueDto,
        }),
        invalidatesTags: ['datasets'],
      }),
      keptTextsList: build.query<KeptTextsListApiResponse, KeptTextsListApiArg>({
        query: (queryArg) => ({
          url: `/api/kept-texts`,
          params: {
            find: queryArg.find,
          },
        }),
        providesTags: ['kept texts'],
      }),
      keptTextsKeep: build.mutation<KeptTextsKeepApiResponse, KeptTextsKeepApiArg>({
        query: (queryArg) => ({ url: `/api/kept-texts`, method: 'POST', body: queryArg.newKeptTextDto }),
        invalidatesTags: ['kept texts'],
      }),
      keptTextsOne: build.query<KeptTextsOneApiResponse, KeptTextsOneApiArg>({
        query: (queryArg) => ({ url: `/api/kept-texts/${queryArg.id}` }),
        providesTags: ['kept texts'],
      }),
      keptTextsChange: build.mutation<KeptTextsChangeApiResponse, KeptTextsChangeApiArg>({
        query: (queryArg) => ({ url: `/api/kept-texts/${queryArg.id}`, method: 'PATCH', body: queryArg.changedKeptTextDto }),
        invalidatesTags: ['kept texts'],
      }),
      keptTextsRemove: build.mutation<KeptTextsRemoveApiResponse, KeptTextsRemoveApiArg>({
        query: (queryArg) => ({ url: `/api/kept-texts/${queryArg.id}`, method: 'DELETE' }),
        invalidatesTags: ['kept texts'],
      }),
      linksAllowed: build.query<LinksAllowedApiResponse, LinksAllowedApiArg>({
        query: () => ({ url: `/api/links/allowed` }),
        providesTags: ['links'],
      }),
      linksAllow: build.mutation<LinksAllowApiResponse, LinksAllowApiArg>({
        query: (queryArg) => ({ url: `/api/links/allowed`, method: 'PUT', body: queryArg.allowedAddressesDto }),
        invalidatesTags: ['links'],
      }),
      keepingShown: build.query<KeepingShownApiResponse, KeepingShownApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/keeping` }),
        providesTags: ['kept-routines'],
      }),
      keepingChange: build.mutation<KeepingChangeApiResponse, KeepingChangeApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/keeping`, method: 'PUT', body: queryArg.changedKeepingDto }),
        invalidatesTags: ['kept-routines'],
      }),
      keepingEnd: build.mutation<KeepingEndApiResponse, KeepingEndApiArg>({
        query: (queryArg) => ({ url: `/api/sources/${queryArg.id}/keeping`, method: 'DELETE' }),
        invalidatesTags: ['kept-routines'],
      }),
      keepingMade: build.query<KeepingMadeApiResponse, KeepingMadeApiArg>({
        query: (queryArg) => ({
          url: `/api/sources/${queryArg.id}/kept-routines`,
          params: {
            signature: queryArg.signature,
          },
        }),
        providesTags: ['kept-routines'],
      }),
      keptRoutinesPreview: build.mutation<KeptRoutinesPreviewApiResponse, KeptRoutinesPreviewApiArg>({
        query: (queryArg) => ({ url: `/api/kept-routines/preview`, method: 'POST', body: queryArg.routineToKeepDto }),
        invalidatesTags: ['kept-routines'],
      }),
      keptRoutinesKeep: build.mutation<KeptRoutinesKeepApiResponse, KeptRoutinesKeepApiArg>({
        query: (queryArg) => ({ url: `/api/kept-routines`, method: 'POST', body: queryArg.keepRoutineDto }),
        invalidatesTags: ['kept-routines'],
      }),
      runsStart: build.mutation<RunsStartApiResponse, RunsStartApiArg>({
        query: (queryArg) => ({ url: `/api/runs`, method: 'POST', body: queryArg.newRunDto }),
        invalidatesTags: ['runs'],
      }),
      runsList: build.query<RunsListApiResponse, RunsListApiArg>({
        query: () => ({ url: `/api/runs` }),
        providesTags: ['runs'],
      }),
      runsOne: build.query<RunsOneApiResponse, RunsOneApiArg>({
        query: (queryArg) => ({ url: `/api/runs/${queryArg.id}` }),
        providesTags: ['runs'],
      }),
      runsCancel: build.mutation<RunsCancelApiResponse, RunsCancelApiArg>({
        query: (queryArg) => ({ url: `/api/runs/${queryArg.id}/cancel`, method: 'POST' }),
        invalidatesTags: ['runs'],
      }),
      resultsOne: build.query<ResultsOneApiResponse, ResultsOneApiArg>({
        query: (queryArg) => ({ url: `/api/results/${queryArg.id}` }),
        providesTags: ['results'],
      }),
      resultsRows: build.query<ResultsRowsApiResponse, ResultsRowsApiArg>({
        query: (queryArg) => ({
          url: `/api/results/${queryArg.id}/rows`,
          params: {
            offset: queryArg.offset,
            limit: queryArg.limit,
            sort: queryArg.sort,
          },
        }),
        providesTags: ['results'],
      }),
      resultsFind: build.query<ResultsFindApiResponse, ResultsFindApiArg>({
        query: (queryArg) => ({
          url: `/api/results/${queryArg.id}/find`,
          params: {
            text: queryArg.text,
            from: queryArg['from'],
            sort: queryArg.sort,
          },
        }),
        providesTags: ['results'],
      }),
      resultsProfile: build.query<ResultsProfileApiResponse, ResultsProfileApiArg>({
        query: (queryArg) => ({
          url: `/api/results/${queryArg.id}/profile`,
          params: {
            field: queryArg.field,
          },
        }),
        providesTags: ['results'],
      }),
      resultsCell: build.query<ResultsCellApiResponse, ResultsCellApiArg>({
        query: (queryArg) => ({
          url: `/api/results/${queryArg.id}/cell`,
          params: {
            row: queryArg.row,
            field: queryArg.field,
          },
        }),
        providesTags: ['results'],
      }),
      answersAnswer: build.mutation<AnswersAnswerApiResponse, AnswersAnswerApiArg>({
        query: (queryArg) => ({ url: `/api/answers`, method: 'POST', body: queryArg.questionDto }),
        invalidatesTags: ['answers'],
      }),
      proofMake: build.mutation<ProofMakeApiResponse, ProofMakeApiArg>({
        query: (queryArg) => ({ url: `/api/results/${queryArg.id}/proofs`, method: 'POST', body: queryArg.newProofDto }),
        invalidatesTags: ['proof'],
      }),
      proofDraw: build.mutation<ProofDrawApiResponse, ProofDrawApiArg>({
        query: (queryArg) => ({ url: `/api/results/${queryArg.id}/proofs/chart`, method: 'POST', body: queryArg.newProofDto }),
        invalidatesTags: ['proof'],
      }),
      proofFindings: build.mutation<ProofFindingsApiResponse, ProofFindingsApiArg>({
        query: (queryArg) => ({ url: `/api/results/${queryArg.id}/proofs/findings`, method: 'POST', body: queryArg.newProofDto }),
        invalidatesTags: ['proof'],
      }),
      proofBehind: build.mutation<ProofBehindApiResponse, ProofBehindApiArg>({
        query: (queryArg) => ({ url: `/api/results/${queryArg.id}/proofs/rows`, method: 'POST', body: queryArg.rowsBehindAskedDto }),
        invalidatesTags: ['proof'],
      }),
      proofLines: build.query<ProofLinesApiResponse, ProofLinesApiArg>({
        query: (queryArg) => ({
          url: `/api/results/${queryArg.id}/proofs/${queryArg.key}/lines`,
          params: {
            offset: queryArg.offset,
            limit: queryArg.limit,
          },
        }),
        providesTags: ['proof'],
      }),
      scriptsRun: build.mutation<ScriptsRunApiResponse, ScriptsRunApiArg>({
        query: (queryArg) => ({ url: `/api/scripts/run`, method: 'POST', body: queryArg.runScriptDto }),
        invalidatesTags: ['scripts'],
      }),
      scriptsEnd: build.mutation<ScriptsEndApiResponse, ScriptsEndApiArg>({
        query: (queryArg) => ({ url: `/api/scripts/end`, method: 'POST', body: queryArg.scriptDto }),
        invalidatesTags: ['scripts'],
      }),
      exportsFile: build.query<ExportsFileApiResponse, ExportsFileApiArg>({
        query: (queryArg) => ({
          url: `/api/results/${queryArg.id}/file`,
          params: {
            format: queryArg.format,
            name: queryArg.name,
            dataset: queryArg.dataset,
            revision: queryArg.revision,
            title: queryArg.title,
          },
        }),
        providesTags: ['exports'],
      }),
      papersPaper: build.mutation<PapersPaperApiResponse, PapersPaperApiArg>({
        query: (queryArg) => ({ url: `/api/results/${queryArg.id}/paper`, method: 'POST', body: queryArg.paperDto }),
        invalidatesTags: ['exports'],
      }),
      healthHealth: build.query<HealthHealthApiResponse, HealthHealthApiArg>({
        query: () => ({ url: `/api/health` }),
        providesTags: ['health'],
      }),
      healthLimits: build.query<HealthLimitsApiResponse, HealthLimitsApiArg>({
        query: () => ({ url: `/api/limits` }),
        providesTags: ['health'],
      }),
      healthUsed: build.query<HealthUsedApiResponse, HealthUsedApiArg>({
        query: () => ({ url: `/api/limits/in-use` }),
        providesTags: ['health'],
      }),
    }),
    overrideExisting: false,
  });
export { injectedRtkApi as api };
export type AuditListApiResponse = /** status 200  */ AuditEntryDto[];
export type AuditListApiArg = void;
export type PeopleSignInApiResponse = /** status 200  */ MeDto;
export type PeopleSignInApiArg = {
  signInDto: SignInDto;
};
export type PeopleSignOutApiResponse = unknown;
export type PeopleSignOutApiArg = void;
export type PeopleMeApiResponse = /** status 200  */ MeDto;
export type PeopleMeApiArg = void;
export type PeopleDemoSignInsApiResponse = /** status 200  */ DemoSignInDto[];
export type PeopleDemoSignInsApiArg = void;
export type PeopleListApiResponse = /** status 200  */ PersonDto[];
export type PeopleListApiArg = void;
export type SourcesListApiResponse = /** status 200  */ SourceDto[];
export type SourcesListApiArg = void;
export type SourcesAddApiResponse = /** status 201  */ SourceDto;
export type SourcesAddApiArg = {
  newSourceDto: NewSourceDto;
};
export type SourcesOneApiResponse = /** status 200  */ SourceDto;
export type SourcesOneApiArg = {
  id: string;
};
export type SourcesChangeApiResponse = /** status 200  */ SourceDto;
export type SourcesChangeApiArg = {
  id: string;
  changedSourceDto: ChangedSourceDto;
};
export type SourcesRemoveApiResponse = unknown;
export type SourcesRemoveApiArg = {
  id: string;
};
export type SourcesTryApiResponse = /** status 200  */ TestAnswerDto;
export type SourcesTryApiArg = {
  testSourceDto: TestSourceDto;
};
export type SourcesTestApiResponse = /** status 200  */ SourceDto;
export type SourcesTestApiArg = {
  id: string;
};
export type SourcesAccessApiResponse = /** status 200  */ SourceAccessDto;
export type SourcesAccessApiArg = {
  id: string;
};
export type SourcesGiveApiResponse = /** status 200  */ SourceAccessDto;
export type SourcesGiveApiArg = {
  id: string;
  sourceAccessDto: SourceAccessDto;
};
export type SourcesTablesApiResponse = /** status 200  */ TablesDto;
export type SourcesTablesApiArg = {
  id: string;
  search?: string;
  limit?: number;
};
export type SourcesDescribeApiResponse = /** status 200  */ DescribedTableDto;
export type SourcesDescribeApiArg = {
  id: string;
  schema: string;
  table: string;
};
export type SourcesSampleApiResponse = /** status 200  */ SampleDto;
export type SourcesSampleApiArg = {
  id: string;
  schema: string;
  table: string;
};
export type SourcesCountApiResponse = /** status 200  */ ExactCountDto;
export type SourcesCountApiArg = {
  id: string;
  schema: string;
  table: string;
};
export type TextsDescribeApiResponse = /** status 200  */ DescribedTextDto;
export type TextsDescribeApiArg = {
  id: string;
  describeTextDto: DescribeTextDto;
};
export type RoutinesListApiResponse = /** status 200  */ RoutinesDto;
export type RoutinesListApiArg = {
  id: string;
  search?: string;
  limit?: number;
};
export type RoutinesTextApiResponse = /** status 200  */ RoutineTextDto;
export type RoutinesTextApiArg = {
  id: string;
  signature: string;
};
export type RoutinesDescribeApiResponse = /** status 200  */ DescribedRoutineDto;
export type RoutinesDescribeApiArg = {
  id: string;
  routineResultDto: RoutineResultDto;
};
export type RoutinesTryOutApiResponse = /** status 200  */ CalledOnceDto;
export type RoutinesTryOutApiArg = {
  id: string;
  routineTriedDto: RoutineTriedDto;
};
export type RoutinesAdmitApiResponse = /** status 200  */ AdmittedDto;
export type RoutinesAdmitApiArg = {
  id: string;
  admittedDto: AdmittedDto;
};
export type RoutinesViewTextApiResponse = /** status 200  */ RoutineTextDto;
export type RoutinesViewTextApiArg = {
  id: string;
  schema: string;
  table: string;
};
export type DatasetsListApiResponse = /** status 200  */ DatasetLineDto[];
export type DatasetsListApiArg = void;
export type DatasetsCreateApiResponse = /** status 201  */ DatasetDto;
export type DatasetsCreateApiArg = {
  newDatasetDto: NewDatasetDto;
};
export type DatasetsDeletedApiResponse = /** status 200  */ DatasetLineDto[];
export type DatasetsDeletedApiArg = void;
export type DatasetsDuplicateApiResponse = /** status 201  */ DatasetDto;
export type DatasetsDuplicateApiArg = {
  id: string;
};
export type DatasetsDeleteApiResponse = unknown;
export type DatasetsDeleteApiArg = {
  id: string;
};
export type DatasetsOneApiResponse = /** status 200  */ DatasetDto;
export type DatasetsOneApiArg = {
  id: string;
  revision?: number;
};
export type DatasetsTakeBackApiResponse = /** status 200  */ DatasetDto;
export type DatasetsTakeBackApiArg = {
  id: string;
};
export type DatasetsEditApiResponse = /** status 201  */ EditedDto;
export type DatasetsEditApiArg = {
  id: string;
  editsDto: EditsDto;
};
export type DatasetsHistoryApiResponse = /** status 200  */ RevisionDto[];
export type DatasetsHistoryApiArg = {
  id: string;
  before?: number;
};
export type DatasetsTablesApiResponse = /** status 200  */ KnownTableDto[];
export type DatasetsTablesApiArg = {
  id: string;
};
export type DatasetsRoutinesApiResponse = /** status 200  */ KnownRoutineDto[];
export type DatasetsRoutinesApiArg = {
  id: string;
};
export type LastValuesAllApiResponse = /** status 200  */ LastValuesDto;
export type LastValuesAllApiArg = {
  id: string;
};
export type LastValuesKeepApiResponse = /** status 200  */ LastValuesDto;
export type LastValuesKeepApiArg = {
  id: string;
  parameter: string;
  lastValueDto: LastValueDto;
};
export type KeptTextsListApiResponse = /** status 200  */ KeptTextLineDto[];
export type KeptTextsListApiArg = {
  find?: string;
};
export type KeptTextsKeepApiResponse = /** status 201  */ KeptTextDto;
export type KeptTextsKeepApiArg = {
  newKeptTextDto: NewKeptTextDto;
};
export type KeptTextsOneApiResponse = /** status 200  */ KeptTextDto;
export type KeptTextsOneApiArg = {
  id: string;
};
export type KeptTextsChangeApiResponse = /** status 200  */ KeptTextDto;
export type KeptTextsChangeApiArg = {
  id: string;
  changedKeptTextDto: ChangedKeptTextDto;
};
export type KeptTextsRemoveApiResponse = unknown;
export type KeptTextsRemoveApiArg = {
  id: string;
};
export type LinksAllowedApiResponse = /** status 200  */ AllowedAddressesDto;
export type LinksAllowedApiArg = void;
export type LinksAllowApiResponse = /** status 200  */ AllowedAddressesDto;
export type LinksAllowApiArg = {
  allowedAddressesDto: AllowedAddressesDto;
};
export type KeepingShownApiResponse = /** status 200  */ KeepingDto;
export type KeepingShownApiArg = {
  id: string;
};
export type KeepingChangeApiResponse = /** status 200  */ KeepingDto;
export type KeepingChangeApiArg = {
  id: string;
  changedKeepingDto: ChangedKeepingDto;
};
export type KeepingEndApiResponse = /** status 200  */ KeepingDto;
export type KeepingEndApiArg = {
  id: string;
};
export type KeepingMadeApiResponse = /** status 200  */ RoutineMadeDto[];
export type KeepingMadeApiArg = {
  id: string;
  signature: string;
};
export type KeptRoutinesPreviewApiResponse = /** status 200  */ RoutinePreviewDto;
export type KeptRoutinesPreviewApiArg = {
  routineToKeepDto: RoutineToKeepDto;
};
export type KeptRoutinesKeepApiResponse = /** status 200  */ RoutineKeptDto;
export type KeptRoutinesKeepApiArg = {
  keepRoutineDto: KeepRoutineDto;
};
export type RunsStartApiResponse = /** status 201  */ RunDto;
export type RunsStartApiArg = {
  newRunDto: NewRunDto;
};
export type RunsListApiResponse = /** status 200  */ RunLineDto[];
export type RunsListApiArg = void;
export type RunsOneApiResponse = /** status 200  */ RunDto;
export type RunsOneApiArg = {
  id: string;
};
export type RunsCancelApiResponse = /** status 200  */ RunDto;
export type RunsCancelApiArg = {
  id: string;
};
export type ResultsOneApiResponse = /** status 200  */ ResultDto;
export type ResultsOneApiArg = {
  id: string;
};
export type ResultsRowsApiResponse = /** status 200  */ any[][];
export type ResultsRowsApiArg = {
  id: string;
  offset: number;
  limit: number;
  sort?: string;
};
export type ResultsFindApiResponse = /** status 200  */ FoundDto;
export type ResultsFindApiArg = {
  id: string;
  text: string;
  from: number;
  sort?: string;
};
export type ResultsProfileApiResponse = /** status 200  */ ProfileDto;
export type ResultsProfileApiArg = {
  id: string;
  field: string;
};
export type ResultsCellApiResponse = /** status 200  */ CellDto;
export type ResultsCellApiArg = {
  id: string;
  row: string;
  field: string;
};
export type AnswersAnswerApiResponse = /** status 200  */ {
  [key: string]: any;
};
export type AnswersAnswerApiArg = {
  questionDto: QuestionDto;
};
export type ProofMakeApiResponse = /** status 200  */ ProofDto;
export type ProofMakeApiArg = {
  id: string;
  newProofDto: NewProofDto;
};
export type ProofDrawApiResponse = /** status 200  */ ProofDto;
export type ProofDrawApiArg = {
  id: string;
  newProofDto: NewProofDto;
};
export type ProofFindingsApiResponse = /** status 200  */ ProblemDto[];
export type ProofFindingsApiArg = {
  id: string;
  newProofDto: NewProofDto;
};
export type ProofBehindApiResponse = /** status 200  */ RowsBehindDto;
export type ProofBehindApiArg = {
  id: string;
  rowsBehindAskedDto: RowsBehindAskedDto;
};
export type ProofLinesApiResponse = /** status 200  */ any[][];
export type ProofLinesApiArg = {
  id: string;
  key: string;
  offset: number;
  limit: number;
};
export type ScriptsRunApiResponse = /** status 200  */ {
  [key: string]: any;
};
export type ScriptsRunApiArg = {
  runScriptDto: RunScriptDto;
};
export type ScriptsEndApiResponse = /** status 200  */ EndedScriptDto;
export type ScriptsEndApiArg = {
  scriptDto: ScriptDto;
};
export type ExportsFileApiResponse = unknown;
export type ExportsFileApiArg = {
  id: string;
  format: 'csv' | 'json' | 'ndjson' | 'parquet' | 'xlsx' | 'metadata';
  name?: string;
  dataset?: string;
  revision?: number;
  title?: string;
};
export type PapersPaperApiResponse = unknown;
export type PapersPaperApiArg = {
  id: string;
  paperDto: PaperDto;
};
export type HealthHealthApiResponse = /** status 200  */ HealthDto;
export type HealthHealthApiArg = void;
export type HealthLimitsApiResponse = /** status 200  */ LimitDto[];
export type HealthLimitsApiArg = void;
export type HealthUsedApiResponse = /** status 200  */ UseDto[];
export type HealthUsedApiArg = void;
export type AuditEntryDto = {
  id: string;
  at: string;
  person: string;
  act: string;
  subject: string;
};
export type MeDto = {
  id: string;
  name: string;
  shownName: string;
  role: 'reader' | 'analyst' | 'steward';
  csrf: string;
};
export type SignInDto = {
  name: string;
  password: string;
};
export type DemoSignInDto = {
  name: string;
  shownName: string;
  role: 'reader' | 'analyst' | 'steward';
  password: string;
};
export type PersonDto = {
  id: string;
  name: string;
  shownName: string;
  role: 'reader' | 'analyst' | 'steward';
};
export type PostgresqlSettings = {
  host: string;
  port: number;
  database: string;
  user: string;
  tls: 'off' | 'required' | 'verified';
};
export type SpanDto = {
  from: number;
  to: number;
};
export type PlaceDto = {
  step?: string;
  input?: number;
  clause?: string;
  item?: string;
  side?: string;
  field?: string;
  parameter?: string;
  position?: SpanDto;
  pointer?: string;
};
export type ProblemDto = {
  code: string;
  severity: 'error' | 'warning' | 'hint';
  message: string;
  expected?: string;
  detail?: string;
  place: PlaceDto;
};
export type RecordedTestDto = {
  ok: boolean;
  user?: string;
  server?: string;
  ms?: number;
  tables?: number;
  problem?: ProblemDto;
  detail?: string;
  at: string;
  stale: boolean;
};
export type SourceDto = {
  id: string;
  name: string;
  mark: string;
  kind: 'postgresql';
  settings?: PostgresqlSettings;
  test?: RecordedTestDto;
};
export type NewSourceDto = {
  name: string;
  mark: string;
  kind: 'postgresql';
  settings: PostgresqlSettings;
  secret: string;
};
export type ChangedSourceDto = {
  name?: string;
  mark?: string;
  settings?: PostgresqlSettings;
  secret?: string;
};
export type TestAnswerDto = {
  ok: boolean;
  user?: string;
  server?: string;
  ms?: number;
  tables?: number;
  problem?: ProblemDto;
  detail?: string;
};
export type TestSourceDto = {
  kind: 'postgresql';
  settings: PostgresqlSettings;
  secret?: string;
  source?: string;
};
export type SourceAccessDto = {
  people: string[];
};
export type CatalogueTableDto = {
  schema: string;
  name: string;
  view: boolean;
  estimate: number | null;
  comment: string;
};
export type TablesDto = {
  tables: CatalogueTableDto[];
  total: number;
};
export type DescribedColumnDto = {
  name: string;
  sourceType: string;
  declaredType: string;
  type: {
    [key: string]: any;
  };
  typeWord: string;
  role: string;
  nullable: boolean;
  primaryKey: boolean;
  foreignKey: boolean;
  unique: boolean;
  looseText: boolean;
  comment: string;
};
export type KeyDto = {
  columns: string[];
  primary: boolean;
};
export type RelationDto = {
  direction: 'out' | 'in';
  columns: string[];
  otherSchema: string;
  otherTable: string;
  otherColumns: string[];
};
export type DescribedTableDto = {
  schema: string;
  name: string;
  columns: DescribedColumnDto[];
  keys: KeyDto[];
  relations: RelationDto[];
  estimate: number | null;
};
export type SampleDto = {
  columns: string[];
  rows: (string | null)[][];
  asOf: string;
};
export type ExactCountDto = {
  rows: string;
  asOf: string;
};
export type TextColumnFromDto = {
  schema: string;
  table: string;
  column: string;
  nullable: boolean;
};
export type TextColumnDto = {
  column: string;
  named: boolean;
  sourceType: string;
  type: {
    [key: string]: any;
  };
  looseText: boolean;
  from?: TextColumnFromDto;
};
export type TextMetDto = {
  name: string;
  sourceType: string;
  type: {
    [key: string]: any;
  };
};
export type DescribedTextDto = {
  columns: TextColumnDto[];
  met: TextMetDto[];
  problems: ProblemDto[];
};
export type TextParameterDto = {
  name: string;
  type: 'text' | 'whole number' | 'decimal' | 'date' | 'date-time' | 'yes/no';
};
export type DescribeTextDto = {
  text: string;
  parameters: TextParameterDto[];
  script?: boolean;
  before?: string[];
};
export type RoutineArgumentDto = {
  name: string;
  sourceType: string;
  type: {
    [key: string]: any;
  };
  several: boolean;
  collects: boolean;
  startsAs: string | null;
};
export type RoutineOutDto = {
  name: string;
  sourceType: string;
  type: {
    [key: string]: any;
  };
  cursor: boolean;
  at: number;
  taken: boolean;
};
export type RoutineDto = {
  schema: string;
  name: string;
  signature: string;
  kind: 'function' | 'procedure';
  gives: string;
  arguments: RoutineArgumentDto[];
  outs: RoutineOutDto[];
  mayWrite: boolean;
  withOwnersRights: boolean;
  columnsUnsaid: boolean;
  cursors: boolean;
  comment: string;
  body: string;
  admitted: boolean;
};
export type RoutinesDto = {
  routines: RoutineDto[];
  total: number;
};
export type RoutineTextDto = {
  text: string;
};
export type DescribedRoutineDto = {
  routine: RoutineDto;
  columns: TextColumnDto[];
  problems: ProblemDto[];
};
export type CallResultDto = {
  of: 'rows' | 'values' | 'cursor';
  number?: number;
  name?: string;
};
export type GivenDto = {
  by: 'value' | 'default' | 'null';
  value?: string;
};
export type RoutineResultDto = {
  signature: string;
  columns?: string;
  result?: CallResultDto;
  given?: GivenDto[];
};
export type CalledResultDto = {
  result: CallResultDto;
  columns: TextColumnDto[];
  rows: (string | null)[][];
  count: string | null;
};
export type SaidDto = {
  severity: string;
  text: string;
};
export type CalledOnceDto = {
  results: CalledResultDto[];
  messages: SaidDto[];
  ms: number | null;
  problems: ProblemDto[];
};
export type RoutineTriedDto = {
  signature: string;
  columns?: string;
  given: GivenDto[];
};
export type AdmittedDto = {
  signatures: string[];
};
export type DatasetLineDto = {
  id: string;
  title: string;
  revision: number;
  changedAt: string;
  changedBy: string;
  description: string;
  tags: string[];
};
export type DatasetDto = {
  id: string;
  revision: number;
  savedAt: string;
  definition: {
    [key: string]: any;
  } | null;
  withoutValues: boolean;
  problems: ProblemDto[];
};
export type FromShelfDto = {
  text: string;
  version: number;
};
export type NewDatasetDto = {
  source: string;
  schema?: string;
  table?: string;
  text?: string;
  script?: boolean;
  kept?: FromShelfDto;
  calls?: RoutineResultDto;
  title?: string;
};
export type EditedDto = {
  id: string;
  revision: number;
  savedAt: string;
  definition: {
    [key: string]: any;
  } | null;
};
export type EditsDto = {
  editId: string;
  baseRevision: number;
  edits: {
    [key: string]: any;
  }[];
  restores?: number;
};
export type RevisionDto = {
  number: number;
  sentence: string;
  withheld: boolean;
  madeAt: string;
  person: string;
  own: boolean;
};
export type KnownColumnDto = {
  name: string;
  sourceType: string;
  type: {
    [key: string]: any;
  };
  nullable: boolean;
  looseText: boolean;
};
export type KnownTableDto = {
  source: string;
  schema: string;
  table: string;
  state: 'known' | 'gone' | 'unreachable';
  columns: KnownColumnDto[];
  keys: KeyDto[];
  relations: RelationDto[];
  problem?: ProblemDto;
};
export type KnownRoutineDto = {
  source: string;
  signature: string;
  state: 'known' | 'gone' | 'unreachable';
  entry?: RoutineDto;
};
export type LastValuesDto = {
  values: {
    [key: string]: string[];
  };
};
export type LastValueDto = {
  values: string[];
};
export type KeptTextLineDto = {
  id: string;
  name: string;
  note: string;
  withheld: boolean;
  source?: string;
  tags?: string[];
  version?: number;
  changedAt?: string;
  changedBy?: string;
};
export type KeptTextVersionDto = {
  number: number;
  text: string;
  madeAt: string;
  madeBy: string;
};
export type KeptTextUseDto = {
  id: string;
  title: string;
  version: number;
};
export type AlikeTextDto = {
  id: string;
  name: string;
  text: string;
  share: number;
};
export type KeptTextDto = {
  id: string;
  name: string;
  note: string;
  source: string;
  tags: string[];
  version: number;
  versions: KeptTextVersionDto[];
  uses: KeptTextUseDto[];
  alike: AlikeTextDto[];
};
export type NewKeptTextDto = {
  source: string;
  name: string;
  note: string;
  tags: string[];
  text: string;
};
export type ChangedKeptTextDto = {
  source?: string;
  name?: string;
  note?: string;
  tags?: string[];
  text?: string;
  version: number;
};
export type AllowedAddressesDto = {
  beginnings: string[];
};
export type KeepingDto = {
  may: boolean;
  schema: string | null;
  user: string | null;
  people: string[];
};
export type ChangedKeepingDto = {
  user: string;
  secret?: string;
  schema: string;
  people: string[];
};
export type RoutineMadeDto = {
  statement: string;
  replaced: string | null;
  dataset: string;
  madeBy: string;
  madeAt: string;
};
export type RoutinePreviewDto = {
  statement: string;
  signature: string;
  existing: string | null;
  problems: ProblemDto[];
};
export type RoutineToKeepDto = {
  dataset: string;
  revision: number;
  step: string;
  name: string;
};
export type ComparedDto = {
  rowsOfText: string;
  rowsOfRoutine: string;
  same: boolean;
};
export type RoutineKeptDto = {
  signature: string;
  compared: ComparedDto[];
  problems: ProblemDto[];
};
export type KeepRoutineDto = {
  dataset: string;
  revision: number;
  step: string;
  name: string;
  statement: string;
  values: {
    [key: string]: string[];
  }[];
};
export type FieldCountDto = {
  field: string;
  failed: string;
};
export type FigureDto = {
  figure: number;
  value: string | null;
};
export type StepCountDto = {
  step: string;
  rows: string;
  failed: string;
  fields: FieldCountDto[];
  figures: FigureDto[];
};
export type StageDto = {
  result: string;
  source: string | null;
  rows: number;
  bytes: number;
  keys?: number | 'all';
  said?: SaidDto[];
};
export type ResultColumnDto = {
  id: string;
  name: string;
  type: {
    [key: string]: any;
  };
  shortened?: boolean;
};
export type SourceMomentDto = {
  source: string;
  asOf: string;
};
export type ResultDto = {
  id: string;
  columns: ResultColumnDto[];
  rows: string;
  complete: boolean;
  cut: string | null;
  misfits: {
    [key: string]: number;
  };
  asOf: string;
  moments: SourceMomentDto[];
};
export type ExpectedDto = {
  step: string;
  rows: string;
};
export type RunDto = {
  id: string;
  dataset: string;
  revision: number;
  step: string;
  size: 'head' | 'full';
  inspection: string | null;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  values: {
    [key: string]: string[];
  };
  mostRows: number;
  rowsRead: number;
  bytesRead: number;
  counts: StepCountDto[] | null;
  clauses: {
    [key: string]: any;
  } | null;
  stages: StageDto[] | null;
  problems: ProblemDto[];
  detail?: string;
  result: ResultDto | null;
  firstRows: ResultDto | null;
  expected: ExpectedDto[];
  createdAt: string;
  ms: number | null;
};
export type NewRunDto = {
  dataset: string;
  revision: number;
  step: string;
  size: 'head' | 'full';
  values: {
    [key: string]: string[];
  };
  inspection?: {
    [key: string]: any;
  };
  slot: string;
};
export type RunLineDto = {
  id: string;
  dataset: string;
  revision: number;
  step: string;
  size: 'head' | 'full';
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  createdAt: string;
  ms: number | null;
  rows: number;
  told: string;
};
export type FoundDto = {
  next: number | null;
  first: number | null;
  rows: number;
};
export type TopValueDto = {
  value: string | null;
  rows: string;
};
export type SpreadStepDto = {
  from: string;
  until: string;
  rows: number;
};
export type ProfileDto = {
  rows: string;
  nulls: string;
  empty: string;
  distinct: string;
  least: string | null;
  greatest: string | null;
  mean: string | null;
  top: TopValueDto[];
  spread: SpreadStepDto[];
};
export type CellDto = {
  text: string | null;
  length: number;
};
export type QuestionDto = {
  dataset: string;
  revision: number;
  values: {
    [key: string]: string[];
  };
  question: {
    [key: string]: any;
  };
};
export type AcrossKeyDto = {
  value: string | null;
  shown?: string | null;
  rest?: true;
};
export type ProofDto = {
  key: string;
  lines: number;
  groups: number;
  across?: AcrossKeyDto[][];
  figures?: (string | null)[];
  columns: ResultColumnDto[];
  extents: {
    [key: string]: string | null;
  };
};
export type NewProofDto = {
  dataset: string;
  revision: number;
};
export type RowsBehindDto = {
  fields: string[];
  rows: (string | null)[][];
  more: boolean;
};
export type RowsBehindAskedDto = {
  dataset: string;
  revision: number;
  line: number;
  level: number;
  place?: number;
};
export type RunScriptDto = {
  dataset: string;
  step: string;
  revision: number;
  values: {
    [key: string]: string[];
  };
  to?: number;
};
export type EndedScriptDto = {
  ended: boolean;
};
export type ScriptDto = {
  dataset: string;
  step: string;
};
export type ChartPictureDto = {
  picture: string;
  says: string;
};
export type PaperDto = {
  dataset: string;
  revision: number;
  format: 'pdf' | 'xlsx' | 'html' | 'md' | 'xml';
  title: string;
  subtitle?: string;
  note?: string;
  name?: string;
  chart?: ChartPictureDto;
};
export type HealthDto = {
  status: string;
  startedAt: string;
  endedBefore?: string;
};
export type LimitDto = {
  name: string;
  value: number;
  unit: string;
  says: string;
};
export type UseDto = {
  name: string;
  value: number | null;
  unit: string;
  says: string;
  most: number | null;
};
export const {
  useAuditListQuery,
  usePeopleSignInMutation,
  usePeopleSignOutMutation,
  usePeopleMeQuery,
  usePeopleDemoSignInsQuery,
  usePeopleListQuery,
  useSourcesListQuery,
  useSourcesAddMutation,
  useSourcesOneQuery,
  useSourcesChangeMutation,
  useSourcesRemoveMutation,
  useSourcesTryMutation,
  useSourcesTestMutation,
  useSourcesAccessQuery,
  useSourcesGiveMutation,
  useSourcesTablesQuery,
  useSourcesDescribeQuery,
  useSourcesSampleQuery,
  useSourcesCountQuery,
  useTextsDescribeMutation,
  useRoutinesListQuery,
  useRoutinesTextQuery,
  useRoutinesDescribeMutation,
  useRoutinesTryOutMutation,
  useRoutinesAdmitMutation,
  useRoutinesViewTextQuery,
  useDatasetsListQuery,
  useDatasetsCreateMutation,
  useDatasetsDeletedQuery,
  useDatasetsDuplicateMutation,
  useDatasetsDeleteMutation,
  useDatasetsOneQuery,
  useDatasetsTakeBackMutation,
  useDatasetsEditMutation,
  useDatasetsHistoryQuery,
  useDatasetsTablesQuery,
  useDatasetsRoutinesQuery,
  useLastValuesAllQuery,
  useLastValuesKeepMutation,
  useKeptTextsListQuery,
  useKeptTextsKeepMutation,
  useKeptTextsOneQuery,
  useKeptTextsChangeMutation,
  useKeptTextsRemoveMutation,
  useLinksAllowedQuery,
  useLinksAllowMutation,
  useKeepingShownQuery,
  useKeepingChangeMutation,
  useKeepingEndMutation,
  useKeepingMadeQuery,
  useKeptRoutinesPreviewMutation,
  useKeptRoutinesKeepMutation,
  useRunsStartMutation,
  useRunsListQuery,
  useRunsOneQuery,
  useRunsCancelMutation,
  useResultsOneQuery,
  useResultsRowsQuery,
  useResultsFindQuery,
  useResultsProfileQuery,
  useResultsCellQuery,
  useAnswersAnswerMutation,
  useProofMakeMutation,
  useProofDrawMutation,
  useProofFindingsMutation,
  useProofBehindMutation,
  useProofLinesQuery,
  useScriptsRunMutation,
  useScriptsEndMutation,
  useExportsFileQuery,
  usePapersPaperMutation,
  useHealthHealthQuery,
  useHealthLimitsQuery,
  useHealthUsedQuery,
} = injectedRtkApi;
