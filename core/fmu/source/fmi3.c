// A unit for co-simulation by FMI 3.0 whose outputs follow from its inputs at once, without states or events.

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "fmi3.h"
#include "surface.h"
#include "variables.h"

// Value references: 0 is time, then come the inputs, then the outputs.
#define FIRST_INPUT 1
#define FIRST_OUTPUT (FIRST_INPUT + INPUTS)
#define END (FIRST_OUTPUT + OUTPUTS)

typedef enum { INSTANTIATED, INITIALIZATION, STEP, TERMINATED } Mode;

typedef struct {
  char *name;
  fmi3InstanceEnvironment environment;
  fmi3LogMessageCallback log;
  Mode mode;
  double time, x[INPUTS], y[OUTPUTS];
  bool known; // y belongs to x
} Unit;

static fmi3Status say(Unit *u, fmi3Status status, const char *message) {
  if (u && u->log) u->log(u->environment, status, status == fmi3Warning ? "logStatusWarning" : "logStatusError", message);
  return status;
}

// allowed says whether a call may come in the mode of the unit; the mask has a bit for each.
static bool allowed(Unit *u, int mask, const char *function) {
  if (!u) return false;
  if (mask >> u->mode & 1) return true;
  char text[160];
  snprintf(text, sizeof text, "%s cannot be called now", function);
  say(u, fmi3Error, text);
  return false;
}

#define IN(mode) (1 << (mode))
#define ANY (IN(INSTANTIATED) | IN(INITIALIZATION) | IN(STEP) | IN(TERMINATED))

FMI3_EXPORT const char *fmi3GetVersion(void) { return "3.0"; }

FMI3_EXPORT fmi3Status fmi3SetDebugLogging(fmi3Instance instance, fmi3Boolean on, size_t n, const fmi3String categories[]) {
  (void)on, (void)n, (void)categories;
  return instance ? fmi3OK : fmi3Error;
}

static void begin(Unit *u) {
  memcpy(u->x, START, sizeof u->x);
  u->time = 0;
  u->known = false;
  u->mode = INSTANTIATED;
}

FMI3_EXPORT fmi3Instance fmi3InstantiateCoSimulation(fmi3String name, fmi3String token, fmi3String resources, fmi3Boolean visible, fmi3Boolean logging,
    fmi3Boolean events, fmi3Boolean early, const fmi3ValueReference intermediate[], size_t n, fmi3InstanceEnvironment environment,
    fmi3LogMessageCallback log, fmi3IntermediateUpdateCallback update) {
  (void)resources, (void)visible, (void)logging, (void)events, (void)early, (void)intermediate, (void)n, (void)update;
  const char *wrong = !name || !*name ? "an instance needs a name" : !token || strcmp(token, TOKEN) ? "the token is not that of this unit" : NULL;
  Unit *u = wrong ? NULL : calloc(1, sizeof *u);
  if (u) u->name = malloc(strlen(name) + 1);
  if (!u || !u->name) {
    if (log) log(environment, fmi3Error, "logStatusError", wrong ? wrong : "there is no memory left");
    free(u);
    return NULL;
  }
  strcpy(u->name, name);
  u->environment = environment;
  u->log = log;
  begin(u);
  return u;
}

FMI3_EXPORT fmi3Instance fmi3InstantiateModelExchange(fmi3String name, fmi3String token, fmi3String resources, fmi3Boolean visible, fmi3Boolean logging,
    fmi3InstanceEnvironment environment, fmi3LogMessageCallback log) {
  (void)name, (void)token, (void)resources, (void)visible, (void)logging;
  if (log) log(environment, fmi3Error, "logStatusError", "this unit is for co-simulation alone");
  return NULL;
}

FMI3_EXPORT fmi3Instance fmi3InstantiateScheduledExecution(fmi3String name, fmi3String token, fmi3String resources, fmi3Boolean visible, fmi3Boolean logging,
    fmi3InstanceEnvironment environment, fmi3LogMessageCallback log, fmi3ClockUpdateCallback clock, fmi3LockPreemptionCallback lock, fmi3UnlockPreemptionCallback unlock) {
  (void)clock, (void)lock, (void)unlock;
  return fmi3InstantiateModelExchange(name, token, resources, visible, logging, environment, log);
}

FMI3_EXPORT void fmi3FreeInstance(fmi3Instance instance) {
  Unit *u = instance;
  if (!u) return;
  free(u->name);
  free(u);
}

FMI3_EXPORT fmi3Status fmi3EnterInitializationMode(fmi3Instance instance, fmi3Boolean toleranceDefined, fmi3Float64 tolerance, fmi3Float64 start,
    fmi3Boolean stopDefined, fmi3Float64 stop) {
  (void)toleranceDefined, (void)tolerance, (void)stopDefined, (void)stop;
  Unit *u = instance;
  if (!allowed(u, IN(INSTANTIATED), "fmi3EnterInitializationMode")) return fmi3Error;
  u->time = start;
  u->mode = INITIALIZATION;
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3ExitInitializationMode(fmi3Instance instance) {
  Unit *u = instance;
  if (!allowed(u, IN(INITIALIZATION), "fmi3ExitInitializationMode")) return fmi3Error;
  u->mode = STEP;
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3Terminate(fmi3Instance instance) {
  Unit *u = instance;
  if (!allowed(u, IN(STEP), "fmi3Terminate")) return fmi3Error;
  u->mode = TERMINATED;
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3Reset(fmi3Instance instance) {
  if (!instance) return fmi3Error;
  begin(instance);
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3GetFloat64(fmi3Instance instance, const fmi3ValueReference references[], size_t n, fmi3Float64 values[], size_t m) {
  Unit *u = instance;
  if (!allowed(u, ANY, "fmi3GetFloat64")) return fmi3Error;
  if (n != m) return say(u, fmi3Error, "there are not as many values as references");
  for (size_t i = 0; i < n; i++) {
    fmi3ValueReference r = references[i];
    if (r >= END) return say(u, fmi3Error, "there is no variable of this reference");
    if (r >= FIRST_OUTPUT && !u->known) {
      surface(u->x, u->y);
      u->known = true;
    }
    values[i] = r >= FIRST_OUTPUT ? u->y[r - FIRST_OUTPUT] : r >= FIRST_INPUT ? u->x[r - FIRST_INPUT] : u->time;
  }
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3SetFloat64(fmi3Instance instance, const fmi3ValueReference references[], size_t n, const fmi3Float64 values[], size_t m) {
  Unit *u = instance;
  if (!allowed(u, IN(INSTANTIATED) | IN(INITIALIZATION) | IN(STEP), "fmi3SetFloat64")) return fmi3Error;
  if (n != m) return say(u, fmi3Error, "there are not as many values as references");
  fmi3Status status = fmi3OK;
  for (size_t i = 0; i < n; i++) {
    fmi3ValueReference r = references[i];
    if (r < FIRST_INPUT || r >= FIRST_OUTPUT) return say(u, fmi3Error, "only inputs can be set");
    if (values[i] != values[i]) return say(u, fmi3Error, "an input is not a number");
    int j = (int)r - FIRST_INPUT;
    if (values[i] < LEAST[j] || values[i] > MOST[j]) status = say(u, fmi3Warning, "an input is beyond the range over which the surface was fitted");
    u->x[j] = values[i];
    u->known = false;
  }
  return status;
}

FMI3_EXPORT fmi3Status fmi3DoStep(fmi3Instance instance, fmi3Float64 at, fmi3Float64 size, fmi3Boolean noSetBefore, fmi3Boolean *eventNeeded,
    fmi3Boolean *terminate, fmi3Boolean *earlyReturn, fmi3Float64 *last) {
  (void)noSetBefore;
  Unit *u = instance;
  if (!allowed(u, IN(STEP), "fmi3DoStep")) return fmi3Error;
  if (!(size > 0)) return say(u, fmi3Error, "a step is longer than 0");
  u->time = at + size;
  if (eventNeeded) *eventNeeded = false;
  if (terminate) *terminate = false;
  if (earlyReturn) *earlyReturn = false;
  if (last) *last = u->time;
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3GetNumberOfVariableDependencies(fmi3Instance instance, fmi3ValueReference r, size_t *n) {
  Unit *u = instance;
  if (!u) return fmi3Error;
  if (r >= END || !n) return say(u, fmi3Error, "there is no variable of this reference");
  *n = r >= FIRST_OUTPUT ? INPUTS : 0;
  return fmi3OK;
}

FMI3_EXPORT fmi3Status fmi3GetVariableDependencies(fmi3Instance instance, fmi3ValueReference r, size_t elements[], fmi3ValueReference independents[],
    size_t independentElements[], fmi3DependencyKind kinds[], size_t n) {
  Unit *u = instance;
  if (!u) return fmi3Error;
  size_t have = r >= FIRST_OUTPUT && r < END ? INPUTS : 0;
  if (r >= END || n < have) return say(u, fmi3Error, "there is no room for these dependencies");
  for (size_t i = 0; i < have; i++) {
    elements[i] = independentElements[i] = 0;
    independents[i] = FIRST_INPUT + (fmi3ValueReference)i;
    kinds[i] = fmi3Dependent;
  }
  return fmi3OK;
}

// What is left of the standard is for units that have such variables, states or events.
static fmi3Status none(fmi3Instance instance, size_t n) { return n ? say(instance, fmi3Error, "this unit has no variable of this type") : instance ? fmi3OK : fmi3Error; }
static fmi3Status never(fmi3Instance instance) { return say(instance, fmi3Error, "this unit has no such ability"); }

#define TYPE(T) \
  FMI3_EXPORT fmi3Status fmi3Get##T(fmi3Instance i, const fmi3ValueReference r[], size_t n, fmi3##T v[], size_t m) { (void)r, (void)v, (void)m; return none(i, n); } \
  FMI3_EXPORT fmi3Status fmi3Set##T(fmi3Instance i, const fmi3ValueReference r[], size_t n, const fmi3##T v[], size_t m) { (void)r, (void)v, (void)m; return none(i, n); }
TYPE(Float32) TYPE(Int8) TYPE(UInt8) TYPE(Int16) TYPE(UInt16) TYPE(Int32) TYPE(UInt32) TYPE(Int64) TYPE(UInt64) TYPE(Boolean) TYPE(String)

FMI3_EXPORT fmi3Status fmi3GetBinary(fmi3Instance i, const fmi3ValueReference r[], size_t n, size_t s[], fmi3Binary v[], size_t m) { (void)r, (void)s, (void)v, (void)m; return none(i, n); }
FMI3_EXPORT fmi3Status fmi3SetBinary(fmi3Instance i, const fmi3ValueReference r[], size_t n, const size_t s[], const fmi3Binary v[], size_t m) { (void)r, (void)s, (void)v, (void)m; return none(i, n); }
FMI3_EXPORT fmi3Status fmi3GetClock(fmi3Instance i, const fmi3ValueReference r[], size_t n, fmi3Clock v[]) { (void)r, (void)v; return none(i, n); }
FMI3_EXPORT fmi3Status fmi3SetClock(fmi3Instance i, const fmi3ValueReference r[], size_t n, const fmi3Clock v[]) { (void)r, (void)v; return none(i, n); }

#define NEVER(name, ...) FMI3_EXPORT fmi3Status name(fmi3Instance i, __VA_ARGS__) { return never(i); }
#define NEVER0(name) FMI3_EXPORT fmi3Status name(fmi3Instance i) { return never(i); }
#pragma GCC diagnostic ignored "-Wunused-parameter"
NEVER0(fmi3EnterEventMode)
NEVER0(fmi3EnterConfigurationMode)
NEVER0(fmi3ExitConfigurationMode)
NEVER0(fmi3EnterContinuousTimeMode)
NEVER0(fmi3EnterStepMode)
NEVER0(fmi3EvaluateDiscreteStates)
NEVER(fmi3GetFMUState, fmi3FMUState *s)
NEVER(fmi3SetFMUState, fmi3FMUState s)
NEVER(fmi3FreeFMUState, fmi3FMUState *s)
NEVER(fmi3SerializedFMUStateSize, fmi3FMUState s, size_t *n)
NEVER(fmi3SerializeFMUState, fmi3FMUState s, fmi3Byte b[], size_t n)
NEVER(fmi3DeserializeFMUState, const fmi3Byte b[], size_t n, fmi3FMUState *s)
NEVER(fmi3GetDirectionalDerivative, const fmi3ValueReference u[], size_t nu, const fmi3ValueReference k[], size_t nk, const fmi3Float64 s[], size_t ns, fmi3Float64 v[], size_t nv)
NEVER(fmi3GetAdjointDerivative, const fmi3ValueReference u[], size_t nu, const fmi3ValueReference k[], size_t nk, const fmi3Float64 s[], size_t ns, fmi3Float64 v[], size_t nv)
NEVER(fmi3GetIntervalDecimal, const fmi3ValueReference r[], size_t n, fmi3Float64 v[], fmi3IntervalQualifier q[])
NEVER(fmi3GetIntervalFraction, const fmi3ValueReference r[], size_t n, fmi3UInt64 c[], fmi3UInt64 v[], fmi3IntervalQualifier q[])
NEVER(fmi3GetShiftDecimal, const fmi3ValueReference r[], size_t n, fmi3Float64 v[])
NEVER(fmi3GetShiftFraction, const fmi3ValueReference r[], size_t n, fmi3UInt64 c[], fmi3UInt64 v[])
NEVER(fmi3SetIntervalDecimal, const fmi3ValueReference r[], size_t n, const fmi3Float64 v[])
NEVER(fmi3SetIntervalFraction, const fmi3ValueReference r[], size_t n, const fmi3UInt64 c[], const fmi3UInt64 v[])
NEVER(fmi3SetShiftDecimal, const fmi3ValueReference r[], size_t n, const fmi3Float64 v[])
NEVER(fmi3SetShiftFraction, const fmi3ValueReference r[], size_t n, const fmi3UInt64 c[], const fmi3UInt64 v[])
NEVER(fmi3UpdateDiscreteStates, fmi3Boolean *a, fmi3Boolean *b, fmi3Boolean *c, fmi3Boolean *d, fmi3Boolean *e, fmi3Float64 *f)
NEVER(fmi3CompletedIntegratorStep, fmi3Boolean a, fmi3Boolean *b, fmi3Boolean *c)
NEVER(fmi3SetTime, fmi3Float64 t)
NEVER(fmi3SetContinuousStates, const fmi3Float64 v[], size_t n)
NEVER(fmi3GetContinuousStateDerivatives, fmi3Float64 v[], size_t n)
NEVER(fmi3GetEventIndicators, fmi3Float64 v[], size_t n)
NEVER(fmi3GetContinuousStates, fmi3Float64 v[], size_t n)
NEVER(fmi3GetNominalsOfContinuousStates, fmi3Float64 v[], size_t n)
NEVER(fmi3GetNumberOfEventIndicators, size_t *n)
NEVER(fmi3GetNumberOfContinuousStates, size_t *n)
NEVER(fmi3GetOutputDerivatives, const fmi3ValueReference r[], size_t n, const fmi3Int32 o[], fmi3Float64 v[], size_t m)
NEVER(fmi3ActivateModelPartition, fmi3ValueReference r, fmi3Float64 t)
