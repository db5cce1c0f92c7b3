// Precompiled: what nearly every file of the window needs.
#pragma once
// The core's comes first: a library of its own has a function that bears the name of one of the window library's
// macros.
// clang-format off
#include "../core/kernel_pch.h"
#include <QtWidgets>
