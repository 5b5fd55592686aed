// What a unit for co-simulation needs of FMI 3.0: types and the functions that importers call, as the standard declares them.

#ifndef FMI3_H
#define FMI3_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#if defined _WIN32
#define FMI3_EXPORT __declspec(dllexport)
#else
#define FMI3_EXPORT __attribute__((visibility("default")))
#endif

typedef void *fmi3Instance;
typedef void *fmi3InstanceEnvironment;
typedef void *fmi3FMUState;
typedef uint32_t fmi3ValueReference;
typedef float fmi3Float32;
typedef double fmi3Float64;
typedef int8_t fmi3Int8;
typedef uint8_t fmi3UInt8;
typedef int16_t fmi3Int16;
typedef uint16_t fmi3UInt16;
typedef int32_t fmi3Int32;
typedef uint32_t fmi3UInt32;
typedef int64_t fmi3Int64;
typedef uint64_t fmi3UInt64;
typedef bool fmi3Boolean;
typedef char fmi3Char;
typedef const fmi3Char *fmi3String;
typedef uint8_t fmi3Byte;
typedef const fmi3Byte *fmi3Binary;
typedef bool fmi3Clock;

typedef enum { fmi3OK, fmi3Warning, fmi3Discard, fmi3Error, fmi3Fatal } fmi3Status;
typedef enum { fmi3Independent, fmi3Constant, fmi3Fixed, fmi3Tunable, fmi3Discrete, fmi3Dependent } fmi3DependencyKind;
typedef enum { fmi3IntervalNotYetKnown, fmi3IntervalUnchanged, fmi3IntervalChanged } fmi3IntervalQualifier;

typedef void (*fmi3LogMessageCallback)(fmi3InstanceEnvironment environment, fmi3Status status, fmi3String category, fmi3String message);
typedef void (*fmi3ClockUpdateCallback)(fmi3InstanceEnvironment environment);
typedef void (*fmi3LockPreemptionCallback)(void);
typedef void (*fmi3UnlockPreemptionCallback)(void);
typedef void (*fmi3IntermediateUpdateCallback)(fmi3InstanceEnvironment environment, fmi3Float64 time, fmi3Boolean setRequested, fmi3Boolean getAllowed,
    fmi3Boolean stepFinished, fmi3Boolean canReturnEarly, fmi3Boolean *earlyReturnRequested, fmi3Float64 *earlyReturnTime);

#endif
