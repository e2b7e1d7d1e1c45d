// SPDX-License-Identifier: GPL-3.0-or-later
// Steps that bring the schema of a store up to date, in their order. A step that ran in some store never changes again.
#pragma once

#include <vector>

namespace optrel::postgres {

extern const std::vector<const char*> step_01;
extern const std::vector<const char*> step_02;
extern const std::vector<const char*> step_03;
extern const std::vector<const char*> step_04;
extern const std::vector<const char*> step_05;
extern const std::vector<const char*> step_06;
extern const std::vector<const char*> step_07;
extern const std::vector<const char*> step_08;
extern const std::vector<const char*> step_09;
extern const std::vector<const char*> step_10;
extern const std::vector<const char*> step_11;

}  // namespace optrel::postgres
