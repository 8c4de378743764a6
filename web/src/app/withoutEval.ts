import { parseWithoutEval } from '@polychron/contract';

// Before any other module of ours is loaded: the first schema that is used looks whether it may compile itself.
parseWithoutEval();
