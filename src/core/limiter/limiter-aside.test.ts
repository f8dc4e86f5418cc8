import { testMaterial } from '../../../tests/fixtures/limiter-holds';
import { ASIDE } from '../../../tests/fixtures/limiter-material';

testMaterial(ASIDE);
