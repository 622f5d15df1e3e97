import { createApp } from 'vue';
import SignUp from './SignUp.vue';

createApp(SignUp).mount('#root');
