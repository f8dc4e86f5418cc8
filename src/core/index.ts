/** The computation as a library: see docs/library.md. What is not named here may change without notice. */

export { type ChannelLayout, channelLayout, LAYOUT_IDS, type LayoutId } from './loudness/channel-layout';
export { type Measurement, ProgrammeMeter } from './loudness/programme';
export { ENGINE_VERSION, type Readings } from './loudness/readings';
export { ReferenceMeter } from './loudness/reference-meter';
export { factsOfSamples, measureSamples, type SampleOptions } from './measure-samples';
export { assess, describeSpec } from './spec/assess';
export { type Assessment, missedOf, type Verdict, verdictPhrases, verdictText } from './spec/assessment';
export { SPECS, specById } from './spec/catalogue';
export { type Facts, factsOfFile, unknown } from './spec/facts';
export { type Spec, specSchema } from './spec/spec';
export { forecastGain, forecastLevels } from './treatment/forecast';
export { type LevelPlan, planLevels } from './treatment/plan-levels';
export { type GainSolution, gainToCeiling, gainToTarget, solveGain } from './treatment/solver';
export { describeTreatment, type Treatment, treatmentSchema } from './treatment/treatment';
export { formatGain, formatLevel, formatNumber, formatTime } from './units/format';
