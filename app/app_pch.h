// Precompiled: what nearly every file of the window needs.
#pragma once
#include <QtWidgets>

#include "../core/kernel_pch.h"
