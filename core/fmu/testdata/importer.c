// Loads a unit as an importer does: by its library alone, with the functions of the standard. It prints what it finds, which a test reads.

#include <dlfcn.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../source/fmi3.h"

static int said;
static void hear(fmi3InstanceEnvironment environment, fmi3Status status, fmi3String category, fmi3String message) {
  (void)category;
  said++;
  printf("log %s %d %s\n", (const char *)environment, status, message);
}

static void *need(void *library, const char *name) {
  void *f = dlsym(library, name);
  if (!f) {
    printf("missing %s\n", name);
    exit(1);
  }
  return f;
}

int main(int argc, char **argv) {
  if (argc < 5) return 2; // library, token, inputs, outputs, then values of the inputs
  void *library = dlopen(argv[1], RTLD_NOW | RTLD_LOCAL);
  if (!library) {
    printf("%s\n", dlerror());
    return 1;
  }
  const char *all[] = {"fmi3GetVersion", "fmi3SetDebugLogging", "fmi3InstantiateModelExchange", "fmi3InstantiateCoSimulation", "fmi3InstantiateScheduledExecution", "fmi3FreeInstance",
      "fmi3EnterInitializationMode", "fmi3ExitInitializationMode", "fmi3EnterEventMode", "fmi3Terminate", "fmi3Reset", "fmi3GetFloat32", "fmi3GetFloat64", "fmi3GetInt8", "fmi3GetUInt8",
      "fmi3GetInt16", "fmi3GetUInt16", "fmi3GetInt32", "fmi3GetUInt32", "fmi3GetInt64", "fmi3GetUInt64", "fmi3GetBoolean", "fmi3GetString", "fmi3GetBinary", "fmi3GetClock", "fmi3SetFloat32",
      "fmi3SetFloat64", "fmi3SetInt8", "fmi3SetUInt8", "fmi3SetInt16", "fmi3SetUInt16", "fmi3SetInt32", "fmi3SetUInt32", "fmi3SetInt64", "fmi3SetUInt64", "fmi3SetBoolean", "fmi3SetString",
      "fmi3SetBinary", "fmi3SetClock", "fmi3GetNumberOfVariableDependencies", "fmi3GetVariableDependencies", "fmi3GetFMUState", "fmi3SetFMUState", "fmi3FreeFMUState", "fmi3SerializedFMUStateSize",
      "fmi3SerializeFMUState", "fmi3DeserializeFMUState", "fmi3GetDirectionalDerivative", "fmi3GetAdjointDerivative", "fmi3EnterConfigurationMode", "fmi3ExitConfigurationMode",
      "fmi3GetIntervalDecimal", "fmi3GetIntervalFraction", "fmi3GetShiftDecimal", "fmi3GetShiftFraction", "fmi3SetIntervalDecimal", "fmi3SetIntervalFraction", "fmi3SetShiftDecimal",
      "fmi3SetShiftFraction", "fmi3EvaluateDiscreteStates", "fmi3UpdateDiscreteStates", "fmi3EnterContinuousTimeMode", "fmi3CompletedIntegratorStep", "fmi3SetTime", "fmi3SetContinuousStates",
      "fmi3GetContinuousStateDerivatives", "fmi3GetEventIndicators", "fmi3GetContinuousStates", "fmi3GetNominalsOfContinuousStates", "fmi3GetNumberOfEventIndicators",
      "fmi3GetNumberOfContinuousStates", "fmi3EnterStepMode", "fmi3GetOutputDerivatives", "fmi3DoStep", "fmi3ActivateModelPartition"};
  for (size_t i = 0; i < sizeof all / sizeof *all; i++) need(library, all[i]);
  printf("version %s\n", ((const char *(*)(void))need(library, "fmi3GetVersion"))());

  fmi3Instance (*instantiate)(fmi3String, fmi3String, fmi3String, fmi3Boolean, fmi3Boolean, fmi3Boolean, fmi3Boolean, const fmi3ValueReference[], size_t, fmi3InstanceEnvironment, fmi3LogMessageCallback,
      fmi3IntermediateUpdateCallback) = need(library, "fmi3InstantiateCoSimulation");
  fmi3Status (*enter)(fmi3Instance, fmi3Boolean, fmi3Float64, fmi3Float64, fmi3Boolean, fmi3Float64) = need(library, "fmi3EnterInitializationMode");
  fmi3Status (*leave)(fmi3Instance) = need(library, "fmi3ExitInitializationMode");
  fmi3Status (*get)(fmi3Instance, const fmi3ValueReference[], size_t, fmi3Float64[], size_t) = need(library, "fmi3GetFloat64");
  fmi3Status (*set)(fmi3Instance, const fmi3ValueReference[], size_t, const fmi3Float64[], size_t) = need(library, "fmi3SetFloat64");
  fmi3Status (*step)(fmi3Instance, fmi3Float64, fmi3Float64, fmi3Boolean, fmi3Boolean *, fmi3Boolean *, fmi3Boolean *, fmi3Float64 *) = need(library, "fmi3DoStep");
  fmi3Status (*terminate)(fmi3Instance) = need(library, "fmi3Terminate"), (*reset)(fmi3Instance) = need(library, "fmi3Reset");
  fmi3Status (*getString)(fmi3Instance, const fmi3ValueReference[], size_t, fmi3String[], size_t) = need(library, "fmi3GetString");
  fmi3Status (*dependencies)(fmi3Instance, fmi3ValueReference, size_t *) = need(library, "fmi3GetNumberOfVariableDependencies");
  void (*release)(fmi3Instance) = need(library, "fmi3FreeInstance");

  int inputs = atoi(argv[3]), outputs = atoi(argv[4]);
  fmi3ValueReference in[32], out[32];
  fmi3Float64 x[32], y[32];
  for (int i = 0; i < inputs; i++) {
    in[i] = 1 + (fmi3ValueReference)i;
    x[i] = atof(argv[5 + i]);
  }
  for (int i = 0; i < outputs; i++) out[i] = 1 + (fmi3ValueReference)(inputs + i);

  char environment[] = "here";
  printf("wrong token %d\n", instantiate("a", "{no}", NULL, false, false, false, false, NULL, 0, environment, hear, NULL) != NULL);
  printf("no name %d\n", instantiate("", argv[2], NULL, false, false, false, false, NULL, 0, environment, hear, NULL) != NULL);
  fmi3Instance a = instantiate("a", argv[2], NULL, false, false, false, false, NULL, 0, environment, hear, NULL);
  fmi3Instance b = instantiate("b", argv[2], NULL, false, false, false, false, NULL, 0, environment, hear, NULL);
  if (!a || !b) return 1;
  fmi3Boolean event, end, early;
  fmi3Float64 last;
  printf("step too early %d\n", step(a, 0, 1, true, &event, &end, &early, &last));
  printf("leave too early %d\n", leave(a));
  printf("enter %d\n", enter(a, false, 0, 2, false, 0));
  printf("enter again %d\n", enter(a, false, 0, 2, false, 0));
  printf("set %d\n", set(a, in, (size_t)inputs, x, (size_t)inputs));
  printf("set an output %d\n", set(a, out, 1, x, 1));
  printf("set too few %d\n", set(a, in, (size_t)inputs, x, (size_t)inputs - 1));
  printf("leave %d\n", leave(a));
  printf("step %d\n", step(a, 2, 0.5, true, &event, &end, &early, &last));
  printf("last %g %d %d %d\n", last, event, end, early);
  printf("step back %d\n", step(a, 2.5, -1, true, &event, &end, &early, &last));
  printf("get %d\n", get(a, out, (size_t)outputs, y, (size_t)outputs));
  for (int i = 0; i < outputs; i++) printf("y %.17g\n", y[i]);
  fmi3ValueReference time = 0, far = 99;
  fmi3Float64 t;
  printf("time %d", get(a, &time, 1, &t, 1));
  printf(" %g\n", t);
  printf("get far %d\n", get(a, &far, 1, &t, 1));
  fmi3String text;
  printf("get text %d\n", getString(a, out, 1, &text, 1));
  size_t n = 0;
  printf("depends %d", dependencies(a, out[0], &n));
  printf(" %zu\n", n);
  fmi3Float64 beyond = 1e9, nan = t - t;
  nan /= nan;
  printf("beyond %d\n", set(a, in, 1, &beyond, 1));
  printf("nan %d\n", set(a, in, 1, &nan, 1));
  // The other instance has values of its own.
  printf("other %d", get(b, in, 1, &t, 1));
  printf(" %.17g\n", t);
  printf("terminate %d\n", terminate(a));
  printf("set after %d\n", set(a, in, 1, x, 1));
  printf("reset %d\n", reset(a));
  printf("get start %d", get(a, in, 1, &t, 1));
  printf(" %.17g\n", t);
  release(a);
  release(b);
  release(NULL);
  printf("nobody %d\n", get(NULL, in, 1, &t, 1));
  printf("said %d\n", said);
  dlclose(library);
  return 0;
}
